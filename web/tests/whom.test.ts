import { describe, expect, it } from "vitest";
import { holderOf, memberOf, sentAs, VISITOR } from "../src/shared/standin/whom";
import { whomOfSide } from "../src/verify/sides";

describe("whom one stands in for", () => {
  it("is sent as an account, or as roles with the scopes that restrict them", () => {
    expect(sentAs({ account: "ines" })).toEqual({ account: "ines" });
    expect(sentAs(VISITOR)).toEqual({ account: null });
    expect(sentAs(holderOf("pilot"))).toEqual({ roles: ["pilot"], groups: [], own: false });
    expect(sentAs(memberOf("pier-3"))).toEqual({ roles: [], groups: ["pier-3"], own: false });
    const roles = [
      { role: "pilot", scope: {} },
      { role: "lead", scope: { sites: ["regatta"] } },
    ];
    expect(sentAs({ roles, groups: [], own: true })).toMatchObject({
      roles: ["pilot", { role: "lead", scope: { sites: ["regatta"] } }],
    });
  });

  it("is whom a side of side by side stands for, with its moment", () => {
    expect(whomOfSide("account:ines")).toEqual({ whom: { account: "ines" }, staged: false, at: undefined });
    expect(whomOfSide("visitor;staged")).toEqual({ whom: VISITOR, staged: true, at: undefined });
    expect(whomOfSide("groups:pier-3").whom).toEqual(memberOf("pier-3"));
    expect(whomOfSide("roles:pilot,lead;own;at=2027-01-01T09:00:00Z")).toEqual({
      whom: { roles: ["pilot", "lead"].map((role) => ({ role, scope: {} })), groups: [], own: true },
      staged: false,
      at: "2027-01-01T09:00:00Z",
    });
  });
});
