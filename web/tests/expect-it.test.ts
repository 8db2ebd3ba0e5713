// What "Expect it to stay so" records.
import { describe, expect, it } from "vitest";
import { expectedOf } from "../src/shared/ExpectIt";

const cloth = { colour: "azure", pattern: "plain" };
const way = (role: string | null, where = "everywhere") => ({
  role: role ? { key: role, name: role, cloth } : null,
  group: null,
  where,
  says: "all",
  ends: null,
});
const row = (account: string, ...through: ReturnType<typeof way>[]) => ({
  account,
  name: account,
  through,
  reason: "allowed",
  stopped: "",
  can: 1,
  of: 1,
});
const EDIT = { action: "edit", node: "fees" };

describe("what is expected to stay so", () => {
  it("is that nobody but the holders of the one role may", () => {
    const rows = [row("ada", way("lead"), way("pilot")), row("ben", way("lead"))];
    expect(expectedOf(EDIT, rows)).toEqual([
      { ...EDIT, except_holders_of: "lead", expect: "deny", note: "" },
    ]);
  });

  it("is that each of a few may, where no role is all of theirs", () => {
    const rows = [row("ada", way("lead")), row("ben", way(null))];
    expect(expectedOf(EDIT, rows).map(({ account }) => account)).toEqual(["ada", "ben"]);
  });

  it("is nothing of many, of a branch, or where nobody can", () => {
    const many = Array.from({ length: 11 }, (_, i) => row(`a${i}`, way(i ? "lead" : "pilot")));
    expect(expectedOf(EDIT, many)).toEqual([]);
    expect(expectedOf({ action: "edit", branch: "fees" }, [row("ada", way(null))])).toEqual([]);
    expect(expectedOf(EDIT, [])).toEqual([]);
  });

  it("is of any part of a page, and of what would be made", () => {
    const asked = { action: "create", node: "fees", type: "berth", field: undefined };
    expect(expectedOf(asked, [row("ada", way("lead"))])[0]).toEqual({
      ...{ action: "create", node: "fees", type: "berth" },
      ...{ except_holders_of: "lead", expect: "deny", note: "" },
    });
  });

  it("names no role that everybody has", () => {
    const rows = [row("ada", way("everyone", "for everybody"))];
    expect(expectedOf(EDIT, rows)[0]).toMatchObject({ account: "ada", expect: "allow" });
  });
});
