// @vitest-environment jsdom
// The page of an account, drawn in a document without a browser.
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { CATALOGUE, sentTo, serve, session, show } from "./serving";

const { AccountPage } = await import("../src/assign/AccountPage");

describe("an account's page", () => {
  const given = (id: string, more: object) => ({
    id,
    role: "pilot",
    capability: null,
    words: null,
    says: null,
    group: null,
    scope: {},
    branches: [],
    covers: { pages: 3, media: 0 },
    starts: null,
    ends: null,
    active: true,
    staged: "",
    ...more,
  });
  const row = { id: "ines", name: "Ines Marrow", email: "i@b.example", state: "active", keyholder: false };

  async function opened(duties: string[], more = {}) {
    serve({
      "GET /api/session": session({ duties }),
      "GET /api/catalogue": CATALOGUE,
      "GET /api/roles": [
        { key: "pilot", name: "Pilot", cloth: { colour: "fir", pattern: "disc" }, baseline: "" },
        { key: "crew", name: "Crew", cloth: { colour: "fir", pattern: "band" }, baseline: "" },
      ],
      "GET /api/groups": [{ key: "crew", name: "Crew" }],
      "GET /api/sites": [],
      "GET /api/topics": [],
      "GET /api/accounts/ines/where": [],
      "GET /api/accounts/ines": {
        account: { ...row, desk: true, roles: [], groups: [], last_seen: null, notes: [], ...more },
        state: "active",
        who: { name: "Ines Marrow", email: "i@b.example", language: "en", portrait: null, profile: [] },
        factors: [],
        used: { pilot: "2026-11-26" },
        new_address: null,
        memberships: [],
        given: [
          given("1", {}),
          given("2", { role: "crew", group: "crew" }),
          given("3", { role: null, capability: "event.edit", words: "edit events", says: "own" }),
        ],
        sum: { kinds: [], duties: [], fields_narrowed: [], components: [], narrowed: [] },
        reach: {},
      },
    });
    await show(<AccountPage account="ines" />);
    await screen.findByRole("heading", { name: "Ines Marrow" });
    await screen.findByText("Pilot");
  }

  it("takes away only what is given directly, and only for whoever gives roles", async () => {
    await opened(["roles.assign"]);
    expect(
      screen.getAllByRole("button", { name: /What to do with/ }).map((b) => b.getAttribute("aria-label")),
    ).toEqual(["What to do with Pilot", "What to do with edit events"]);
    expect(screen.getByRole("link", { name: "Crew" })).toBeTruthy();
    serve({ "POST /api/change-set/operations": { name: "", operations: [], kept: [] } });
    await userEvent.click(screen.getByRole("button", { name: "What to do with edit events" }));
    await userEvent.click(await screen.findByRole("menuitem", { name: "Take away" }));
    await waitFor(() =>
      expect(sentTo("POST", "/api/change-set/operations")[0]?.body).toEqual({
        operations: [{ kind: "take-capability", grant: "3" }],
      }),
    );
  });

  it("takes away nothing for anybody else", async () => {
    await opened(["roster.see"]);
    expect(screen.queryByRole("button", { name: /What to do with/ })).toBeNull();
  });

  it("offers standing in where it does not plainly fail", async () => {
    await opened(["impersonate.start"]);
    expect(screen.getByRole("button", { name: "Stand in" })).toBeTruthy();
  });

  it.each([{ keyholder: true }, { state: "disabled" }])("offers none for %o", async (more) => {
    await opened(["impersonate.start"], more);
    expect(screen.queryByRole("button", { name: "Stand in" })).toBeNull();
  });
});
