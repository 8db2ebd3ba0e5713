// @vitest-environment jsdom
// What screens do that no function of theirs tells: when, to whom, and on top of what.
import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, test, vi } from "vitest";
import { sentTo, serve, session, show } from "./serving";

const { AccountPage } = await import("../src/assign/AccountPage");
const { ComponentForm } = await import("../src/desk/ComponentForm");
const { PagePane } = await import("../src/desk/PagePane");
const { PlacePanel } = await import("../src/limit/PlacePanel");
const { Tray } = await import("../src/shared/changes/Tray");
const { accessChanged, stagingChanged } = await import("../src/shared/query");
const { keys } = await import("../src/shared/keys");
const { Strip } = await import("../src/shell/Strip");
const { NotThere } = await import("../src/shell/NotThere");
const { VerifyPlace } = await import("../src/verify/VerifyPlace");
const { Preview } = await import("../src/define/Preview");

const CATALOGUE = {
  types: [{ key: "berth", name: "Berth page", plural: "berth pages", tree: "content", fields: [] }],
  components: [
    {
      key: "heading",
      name: "Heading",
      facets: ["wording"],
      properties: [{ key: "text", name: "Text", facet: "wording", kind: "text" }],
    },
  ],
  verbs: [],
  duties: [],
  actions: [],
  reasons: {},
  sentences: {},
  new: [],
};

const PILOT = "pilot";

const heading = (id: string, more = {}) => ({
  id,
  kind: "heading",
  props: { text: id },
  facets: { wording: true },
  hidden: [],
  off: false,
  locked: false,
  may_arrange: true,
  ...more,
});

const page = (more = {}) => ({
  id: "loft",
  type: "berth",
  tree: "content",
  title: "Sail loft",
  state: "draft",
  site: "harbour",
  address: "loft",
  author: null,
  note: "",
  parent: "pier",
  topics: [],
  version: 1,
  saved_at: "2026-11-29T00:00:00Z",
  saved_by: null,
  above: [],
  locked: false,
  may: ["see", "edit"],
  fields: [],
  components: [heading("a"), heading("b")],
  insertable: [],
  markup: [],
  may_hand_on: false,
  may_edit_listing: false,
  may_edit_site_listing: false,
  ...more,
});

const POSTS = { "GET /api/desk/pages/loft/posts": [], "GET /api/desk/pages/loft/listing": {} };

describe("a page on the desk", () => {
  it("is saved on top of the version its editor began from, though it is fetched again meanwhile", async () => {
    serve({
      "GET /api/session": session(),
      "GET /api/catalogue": CATALOGUE,
      "GET /api/desk/pages/loft": page(),
      ...POSTS,
    });
    const { queryClient } = await show(<PagePane node="loft" />);
    const title = await screen.findByRole("textbox", { name: /title/i });
    await userEvent.type(title, "!");
    serve({ "GET /api/desk/pages/loft": page({ version: 2, title: "Theirs" }) });
    await act(() => queryClient.refetchQueries({ queryKey: keys.page("loft") }));
    serve({ "PATCH /api/desk/pages/loft": page({ version: 3 }) });
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(sentTo("PATCH", "/api/desk/pages/loft")).toHaveLength(1));
    const [sent] = sentTo("PATCH", "/api/desk/pages/loft");
    expect(sent?.headers.get("If-Match")).toBe('"1"');
    expect(sent?.body).toEqual({ title: "Sail loft!" });
  });

  it("offers to move and to take out only what may be arranged", async () => {
    serve({ "GET /api/session": session(), "GET /api/catalogue": CATALOGUE });
    const onComponents = vi.fn();
    const shown = page() as never as Parameters<typeof ComponentForm>[0]["page"];
    const form = (more: object) => (
      <ComponentForm
        page={shown}
        at={0}
        component={heading("a", more) as never}
        problem={null}
        onComponents={onComponents}
        onChoose={vi.fn()}
      />
    );
    await show(form({}));
    await userEvent.click(await screen.findByRole("button", { name: "Move down" }));
    expect(onComponents.mock.lastCall?.[0].map(({ id }: { id: string }) => id)).toEqual(["b", "a"]);
    expect(screen.getByRole("button", { name: "Move up" })).toHaveProperty("disabled", true);
    await userEvent.click(screen.getByRole("button", { name: "Take out" }));
    expect(onComponents.mock.lastCall?.[0].map(({ id }: { id: string }) => id)).toEqual(["b"]);
  });

  it("offers neither of what may not, though its words may be changed", async () => {
    serve({ "GET /api/session": session(), "GET /api/catalogue": CATALOGUE });
    await show(
      <ComponentForm
        page={page() as never}
        at={0}
        component={heading("a", { may_arrange: false }) as never}
        problem={null}
        onComponents={vi.fn()}
        onChoose={vi.fn()}
      />,
    );
    expect(await screen.findByLabelText("Text")).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Take out" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Move down" })).toBeNull();
  });
});

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

describe("undo by Ctrl Z", () => {
  const staged = {
    name: "",
    kept: [],
    operations: [
      { position: 1, kind: "set-answer", what: "x", was: null, now: "all", stale: false, data: {} },
    ],
  };

  it("takes back what was staged last, but not while somebody types", async () => {
    serve({
      "GET /api/session": session({ duties: ["roles.define"] }),
      "GET /api/change-set": staged,
      "GET /api/change-set/touched": {
        gain: 1,
        lose: 0,
        visitors_gain: false,
        visitors_lose: false,
        breaks: null,
        risks: [],
      },
      "POST /api/change-set/undo": { ...staged, operations: [] },
    });
    await show(
      <>
        <input aria-label="Words" />
        <Tray />
      </>,
    );
    await screen.findByText("1 change staged");
    const isLeftAlone = (element: HTMLElement) => fireEvent.keyDown(element, { key: "z", ctrlKey: true });
    expect(isLeftAlone(screen.getByLabelText("Words"))).toBe(true);
    expect(isLeftAlone(document.body)).toBe(false);
    await waitFor(() => expect(sentTo("POST", "/api/change-set/undo")).toHaveLength(1));
  });

  it("tells of expectations only whoever keeps them", async () => {
    serve({
      "GET /api/session": session({ duties: ["roles.define"] }),
      "GET /api/change-set": staged,
      "GET /api/change-set/touched": {
        gain: null,
        lose: null,
        visitors_gain: false,
        visitors_lose: false,
        breaks: null,
        risks: [],
      },
    });
    await show(<Tray />);
    expect(await screen.findByText("who gains and loses is told to whoever sees the roster")).toBeTruthy();
    expect(screen.queryByText(/would break/)).toBeNull();
  });
});

describe("what is asked anew", () => {
  async function asked(change: () => Promise<void>) {
    const { queryClient } = await show(null);
    const every = [keys.crossbar, keys.roles, keys.roster({ search: "", role: "", group: "", state: "" })];
    const others = [keys.boards, keys.expectations, keys.deskTrees, keys.session];
    for (const key of [...every, ...others]) queryClient.setQueryData(key, {});
    await act(change);
    const stale = (key: readonly unknown[]) => queryClient.getQueryState(key)?.isInvalidated;
    return [...every, ...others].map(stale);
  }

  it("is the crossbar and the roster too once something is applied", async () => {
    expect(await asked(accessChanged)).toEqual([true, true, true, true, true, false, false]);
  });

  it("is only what shows it while something is staged", async () => {
    expect(await asked(stagingChanged)).toEqual([false, false, false, true, false, false, false]);
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
        editors: [],
        keyholders: 1,
        ...more,
      },
      "POST /api/change-set/operations": { name: "", operations: [], kept: [] },
    });
    await show(<PlacePanel node="fees" whom={{ role: "pilot" }} onGo={vi.fn()} />);
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
    await opened({ editors: null, keyholders: null });
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
    who: "Ines",
    verb: "edit",
    object: "Fees",
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
    expect(screen.getAllByRole("button", { name: /^Stand in for/ })).toHaveLength(1);
    expect(screen.getByText("What is expected is told to whoever keeps expectations.")).toBeTruthy();
    expect(sentTo("GET", "/api/expectations")).toHaveLength(0);
  });
});

/** A proposal of one answer, then of two. */
function Proposing() {
  const [n, more] = useState(1);
  const answers = new Map(Array.from({ length: n }, (_, i) => [`event.${i}`, "all"]));
  return (
    <>
      <button type="button" onClick={() => more(2)}>
        More
      </button>
      <Preview role={PILOT} answers={answers} />
    </>
  );
}

describe("a proposal", () => {
  const told = (gain: number) => ({ gain, lose: 0, visitors_gain: false, visitors_lose: false });

  it("is not told what an earlier one would have done", async () => {
    serve({
      "GET /api/session": session(),
      "POST /api/change-set/preview/touched": (body: { operations: unknown[] }) => ({
        body: told(body.operations.length),
      }),
    });
    await show(<Proposing />);
    await screen.findByText(/1 account gain/);
    await userEvent.click(screen.getByRole("button", { name: "More" }));
    expect(screen.queryByText(/1 account gain/)).toBeNull();
    expect(screen.getByText("Counting whom it touches…")).toBeTruthy();
    await screen.findByText(/2 accounts gain/);
  });

  it("is not called nothing where one may not know of people", async () => {
    serve({
      "GET /api/session": session(),
      "POST /api/change-set/preview/touched": { ...told(0), gain: null, lose: null },
    });
    await show(<Preview role={PILOT} answers={new Map([["event.edit", "all"]])} />);
    expect(await screen.findByText(/who gains and loses is told/i)).toBeTruthy();
    expect(screen.queryByText(/Nothing changes/)).toBeNull();
  });
});

test("an address that leads nowhere says so", async () => {
  await show(<NotThere />, "/nowhere");
  expect(screen.getByRole("heading", { name: "There is nothing at this address" })).toBeTruthy();
});
