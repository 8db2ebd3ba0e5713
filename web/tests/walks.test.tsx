// @vitest-environment jsdom
// How much of each role is proved, a walk list, and what of it can be tried on a page.
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";
import { readTogether } from "../src/api/together";
import { sentTo, serve, session, show } from "./serving";

const { Coverage } = await import("../src/verify/walks/Coverage");
const { WalkPanel } = await import("../src/desk/WalkPanel");
const { AskedToWalk } = await import("../src/desk/AskedToWalk");
const { RehearsalTray } = await import("../src/shell/RehearsalTray");
const { StartPlace } = await import("../src/desk/StartPlace");

afterEach(() => readTogether(false));

const cloth = { colour: "azure", pattern: "plain" };
const listed = (key: string, more = {}) => ({
  id: `walk-${key}`,
  role: { key, name: key, cloth },
  items: 4,
  proved: 1,
  otherwise: 0,
  rehearsed: false,
  given: false,
  word: "",
  ...more,
});
const loft = { id: "loft", title: "Sail loft" };
const item = (key: string, more = {}) => ({
  key,
  words: `do ${key}`,
  expect: "allow",
  state: "open",
  tick: null,
  page: loft,
  attempt: null,
  kinds: [],
  public: null,
  own: null,
  question: null,
  ...more,
});
const tick = { page: loft, by: "Odile Varga", at: "2026-11-03T09:00:00Z" };
/** As somebody made up, who wrote everything or nothing. */
const madeUp = (own: boolean, more = {}) =>
  session({
    ...more,
    subject: { id: null, name: "Pilot", email: "", keyholder: false, roles: [], whose: "roles", own },
  });

describe("how much of each role is proved", () => {
  it("has those walked farthest first, and makes a list where there is none", async () => {
    serve({
      "GET /api/session": session(),
      "GET /api/walk-lists": [
        listed("none", { id: null, items: 0, proved: 0 }),
        listed("little"),
        listed("much", { proved: 3, otherwise: 1 }),
      ],
      "POST /api/walk-lists": listed("none", { made_at: "", entries: [], news: null, walkers: [] }),
    });
    const { router } = await show(<Coverage />);
    const cards = await screen.findAllByRole("button");
    expect(cards.map(({ textContent }) => textContent)).toEqual([
      "much3 of 4 proved, 1 otherwise",
      "little1 of 4 proved",
      "nonenot walked yet",
    ]);
    expect([...document.querySelectorAll("[data-share]")].map((e) => e.getAttribute("data-share"))).toEqual([
      "0.75",
      "0.25",
      "0.00",
    ]);
    await userEvent.click(screen.getByRole("button", { name: /^none/ }));
    await waitFor(() => expect(router.state.location.pathname).toBe("/walk/walk-none"));
    expect(sentTo("POST", "/api/walk-lists")[0]?.body).toEqual({ role: "none" });
  });
});

describe("beside a page in a rehearsal", () => {
  const entries = [
    item("here", { state: "proved", tick }),
    item("elsewhere", { page: { id: "pier", title: "Pier" }, state: "otherwise", tick }),
    item("refused", {
      expect: "deny",
      attempt: { method: "POST", path: "/api/desk/pages/loft/publish", body: null },
    }),
    item("of others", { expect: "deny", own: false, attempt: { method: "GET", path: "/api/x", body: null } }),
    item("nowhere", { page: null }),
  ];
  const walk = { ...listed("pilot", { items: 5 }), made_at: "", entries, news: null, walkers: [] };

  async function shown(own = true) {
    serve({
      "GET /api/session": madeUp(own),
      "GET /api/walk-lists/walk-pilot": walk,
      "POST /api/desk/pages/loft/publish": () => ({ status: 403, body: { reason: "not-granted" } }),
      "GET /api/desk/pages/loft": () => ({ body: {}, tag: '"7"' }),
    });
    await show(<WalkPanel node="loft" lists={[listed("pilot")]} />);
    await screen.findByText("Do here");
  }
  const told = () => [...document.querySelectorAll("[data-item]")].map((e) => e.getAttribute("data-item"));

  it("tells what can be tried on it, all of it, and what is open", async () => {
    await shown();
    expect(told()).toEqual(["here", "refused", "of others"]);
    expect(screen.getByText(/^done, Sail loft, by Odile Varga on 3 Nov/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "All 5" }));
    expect(told()).toHaveLength(5);
    expect(screen.getByText(/^it was refused, Sail loft/)).toBeTruthy();
    expect(screen.getByText("no page here to try it on")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Open 3" }));
    expect(told()).toEqual(["refused", "of others", "nowhere"]);
  });

  it("sends what no screen offers as one would, and only as whoever it is about", async () => {
    await shown();
    const [refused, others] = ["Must not do refused", "Must not do of others"].map((words) => {
      const entry = screen.getByText(words).closest("li");
      if (!entry) throw new Error(words);
      return within(entry);
    });
    expect(others?.queryByRole("button")).toBeNull();
    expect(others?.getByText("to be tried as the author of nothing")).toBeTruthy();
    await userEvent.click(refused?.getByRole("button", { name: "Try it all the same" }) as HTMLElement);
    await waitFor(() => expect(sentTo("POST", "/api/desk/pages/loft/publish")).toHaveLength(1));
    expect(sentTo("POST", "/api/desk/pages/loft/publish")[0]?.headers.get("If-Match")).toBe('"7"');
    await waitFor(() => expect(sentTo("GET", "/api/walk-lists/walk-pilot").length).toBeGreaterThan(1));
  });
});

describe("on Start", () => {
  it("one is told what one was asked to try, and nothing else of the lists", async () => {
    serve({
      "GET /api/session": session(),
      "GET /api/walk-lists": [listed("pilot", { given: true, word: "Please." }), listed("tenant")],
    });
    await show(<AskedToWalk />);
    expect((await screen.findByRole("link")).getAttribute("href")).toBe("/walk/walk-pilot");
    expect(screen.getByText("Please.")).toBeTruthy();
    expect(screen.queryByText("tenant")).toBeNull();
  });

  it("a column with nothing in it takes no room", async () => {
    serve({
      "GET /api/session": session(),
      "GET /api/walk-lists": [],
      "GET /api/desk/offers": { work: [], work_in_all: 0, make_under: {}, waiting: false, bin: false },
      "GET /api/start": {
        parts: [],
        waits: [],
        came_back: [],
        drafts: [],
        left_off: [],
        asked_of_me: [],
        asked: [],
      },
    });
    await show(<StartPlace />);
    await screen.findByText("There is nothing here for you to change");
    const columns = document.querySelectorAll(".grid > div");
    expect(columns).toHaveLength(2);
    for (const column of columns) expect(column.matches(":empty")).toBe(true);
  });
});

it("what a rehearsal refused is kept as it was asked", async () => {
  const question = { account: "ines", action: "publish", node: "loft" };
  const refused = { reason: "not-granted", detail: "You may not publish this.", question };
  const step = { n: 1, said: ["Sail loft"], method: "POST", path: "/api/x", at: "", refused, fails: null };
  serve({
    "GET /api/session": madeUp(true, { standing_in: { mode: "rehearse" } }),
    "GET /api/rehearsal": {
      steps: [step, { ...step, n: 2, refused: { ...refused, question: null } }],
      most: 50,
    },
    "POST /api/expectations": () => ({ status: 201, body: {} }),
  });
  await show(<RehearsalTray />);
  const expecting = await screen.findAllByRole("button", { name: /^Expect that it stays so/ });
  expect(expecting).toHaveLength(1);
  await userEvent.click(expecting[0] as HTMLElement);
  await waitFor(() => expect(sentTo("POST", "/api/expectations")).toHaveLength(1));
  const [sent] = sentTo("POST", "/api/expectations");
  expect(sent?.body).toEqual({ note: "", ...question, expect: "deny" });
  expect(sent?.headers.get("In-Earnest")).toBe("yes");
});
