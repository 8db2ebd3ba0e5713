// @vitest-environment jsdom
// Limits at a place, expectations and standing in, drawn in a document without a browser.
import { act, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, test, vi } from "vitest";
import { CATALOGUE, sentTo, serve, session, show } from "./serving";

const { PlacePanel } = await import("../src/limit/PlacePanel");
const { NotThere } = await import("../src/shell/NotThere");
const { Strip } = await import("../src/shell/Strip");
const { VerifyPlace } = await import("../src/verify/VerifyPlace");

describe("the strip while standing in", () => {
  it("counts the time down and steps out when it is over", async () => {
    vi.useFakeTimers({ now: new Date("2026-11-29T12:00:00Z"), shouldAdvanceTime: true });
    try {
      const standing = { until: "2026-11-29T12:01:05Z", came_from: "/verify", staged: false };
      serve({ "DELETE /api/stand-in": () => ({ status: 204 }) });
      await show(<Strip session={session({ standing_in: standing }) as never} />, "/desk");
      expect(screen.getByText(/1:05 left/)).toBeTruthy();
      await act(() => vi.advanceTimersByTimeAsync(64_000));
      expect(screen.getByText(/0:01 left/)).toBeTruthy();
      expect(sentTo("DELETE", "/api/stand-in")).toHaveLength(0);
      await act(() => vi.advanceTimersByTimeAsync(3_000));
      expect(sentTo("DELETE", "/api/stand-in").length).toBeGreaterThan(0);
    } finally {
      vi.useRealTimers();
    }
  });
});
describe("the limits at a place", () => {
  const limit = (id: string, more = {}) => ({
    id,
    node: "fees",
    title: "Fees",
    subject_kind: "group",
    subject: "crew",
    subject_name: "the group Crew",
    effect: "stop",
    applies: "branch",
    actions: null,
    set_by: null,
    set_at: null,
    staged: "",
    ...more,
  });

  async function opened(more = {}) {
    serve({
      "GET /api/session": session({ duties: ["limits.set"] }),
      "GET /api/roles": [],
      "GET /api/change-set": { name: "", operations: [], kept: [] },
      "GET /api/limits/places/fees": {
        id: "fees",
        title: "Fees",
        above: "",
        beneath: 0,
        published: 0,
        here: [limit("l1"), limit("l2", { staged: "new" }), limit("l3", { staged: "ending" })],
        from_above: [limit("l4")],
        lifted_beneath: [],
        ...more,
      },
      "POST /api/change-set/operations": { name: "", operations: [], kept: [] },
    });
    await show(<PlacePanel node="fees" action="edit" setting={null} onGo={vi.fn()} />);
    await screen.findByRole("heading", { name: "Fees" });
  }

  it("are dropped where they are set, once, and say everything where they stop everything", async () => {
    await opened();
    expect(screen.getAllByText(/everything/).length).toBe(4);
    await userEvent.click(screen.getByRole("button", { name: "Drop" }));
    await waitFor(() =>
      expect(sentTo("POST", "/api/change-set/operations")[0]?.body).toEqual({
        operations: [{ kind: "drop-limit", limit: "l1" }],
      }),
    );
  });

  it("tell who can edit only to whoever sees the roster", async () => {
    await opened();
    expect(screen.getByText("It is told to whoever sees the roster.")).toBeTruthy();
    expect(screen.queryByText(/keyholder/)).toBeNull();
  });
});

describe("Verify", () => {
  const expected = {
    id: "e1",
    question: { account: "ines", action: "edit", node: "fees" },
    expect: "deny",
    note: "",
    group: null,
    sentence: "Ines may not edit Fees.",
    parts: [
      { text: "Ines", sort: "account" },
      { text: " may not edit ", sort: "" },
      { text: "Fees", sort: "node" },
      { text: ".", sort: "" },
    ],
    recorded_by: null,
    recorded_at: "2026-11-29T00:00:00Z",
    holds: true,
    asked: 1,
    failed: 0,
    against: null,
  };

  it("drops an expectation that nobody needs any more", async () => {
    serve({
      "GET /api/session": session({ duties: ["expectations.keep"] }),
      "GET /api/catalogue": CATALOGUE,
      "GET /api/roles": [],
      "GET /api/expectations": [expected],
      "GET /api/expectations/groups": { groups: [], expectations: 1, breaking: 0 },
      "DELETE /api/expectations/e1": () => ({ status: 204 }),
    });
    await show(<VerifyPlace />, "/verify");
    const row = (await screen.findByText("Fees")).closest("tr");
    await userEvent.click(within(row as HTMLElement).getByRole("button", { name: /^Drop/ }));
    await waitFor(() => expect(sentTo("DELETE", "/api/expectations/e1")).toHaveLength(1));
  });

  it("keeps expectations to those who keep them, and offers nobody who would plainly be refused", async () => {
    const person = (id: string, more = {}) => ({
      id,
      name: id,
      email: "",
      state: "active",
      keyholder: false,
      roles: [],
      groups: [],
      last_seen: null,
      ...more,
    });
    serve({
      "GET /api/session": session({ duties: ["impersonate.start", "roster.see"] }),
      "GET /api/catalogue": CATALOGUE,
      "GET /api/roles": [],
      "GET /api/accounts": {
        count: 3,
        results: [person("odile"), person("ines"), person("key", { keyholder: true })],
      },
    });
    await show(<VerifyPlace />, "/verify");
    expect(await screen.findByRole("button", { name: "Stand in for ines" })).toBeTruthy();
    // A visitor and ines, each with its way to do it otherwise.
    expect(screen.getAllByRole("button", { name: /^Stand in for/ })).toHaveLength(4);
    expect(screen.getByText("What is expected is told to whoever keeps expectations.")).toBeTruthy();
    expect(sentTo("GET", "/api/expectations")).toHaveLength(0);
  });
});

test("an address that leads nowhere says so", async () => {
  await show(<NotThere />, "/nowhere");
  expect(screen.getByRole("heading", { name: "There is nothing at this address" })).toBeTruthy();
});
