// @vitest-environment jsdom
// Taking people on: what is sent, what is told before, and where whoever came may work.
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { CATALOGUE, sentTo, serve, session, show } from "./serving";

const { TakeOnPlace } = await import("../src/assign/taking-on/TakeOnPlace");
const { StartPlace } = await import("../src/desk/StartPlace");
const { Welcome } = await import("../src/shell/Welcome");
const { WhereToWork } = await import("../src/desk/WhereToWork");

const NOTHING = {
  gain: 0,
  lose: 0,
  visitors_gain: false,
  visitors_lose: false,
  turns: [],
  breaks: [],
  risks: [],
};

describe("taking somebody on", () => {
  const refused = {
    status: 422,
    body: {
      status: 422,
      reason: "invalid",
      title: "Some of this cannot be saved",
      detail: "An account needs a name.",
      errors: [{ pointer: "/people/1/name", message: "An account needs a name." }],
    },
  };

  it("says at its field what is wrong with one of several, and keeps what was typed", async () => {
    serve({
      "GET /api/session": session(),
      "GET /api/roles": [],
      "GET /api/groups": [],
      "POST /api/accounts/foreseen": NOTHING,
      "POST /api/accounts/address": { taken: false, shares: false },
      "POST /api/accounts/letter": { subject: "Odile invites you", text: "Hello" },
      "POST /api/accounts": (sent: unknown) =>
        (sent as { people: { name: string }[] }).people[1]?.name === ""
          ? refused
          : { status: 201, body: { people: [{ id: "a", name: "Ada", password: null }], change_set: "c" } },
    });
    await show(<TakeOnPlace />);
    const user = userEvent.setup();
    await screen.findByText("do what everybody may. Groups and roles give more.");
    await user.type(screen.getByLabelText("Name"), "Ada");
    await user.type(screen.getByLabelText("E-mail address"), "ada@post.example");
    await user.click(screen.getByRole("button", { name: "One more person" }));
    const second = within(screen.getByRole("group", { name: "Person 2" }));
    await user.type(second.getByLabelText("E-mail address"), "bo@post.example");
    await user.click(screen.getByRole("button", { name: "Invite all 2" }));
    expect((await second.findByRole("alert")).textContent).toBe("An account needs a name.");
    expect(document.activeElement).toBe(second.getByLabelText("Name"));
    await user.click(screen.getByRole("button", { name: "Leave person 2 out" }));
    await user.click(screen.getByRole("button", { name: "Invite them" }));
    await screen.findByText("Invited: a letter is on its way.");
    expect(sentTo("POST", "/api/accounts").at(-1)?.body).toEqual({
      people: [{ name: "Ada", email: "ada@post.example" }],
      language: "en",
      how: "invite",
      message: "",
      groups: [],
      roles: [],
    });
  });
});

describe("what is told before, and after", () => {
  const given = (words: string, more = {}) => ({
    key: words.startsWith("see-field") ? words : words.replaceAll(" ", "-"),
    words,
    gain: 1,
    lose: 0,
    visitors_gain: false,
    visitors_lose: false,
    most_gained: 3,
    most_lost: 0,
    places: true,
    pages: true,
    ...more,
  });

  it("tells what they will be able to do, what is risky and what breaks, and shows passwords once", async () => {
    serve({
      "GET /api/session": session(),
      "GET /api/roles": [],
      "GET /api/groups": [],
      "POST /api/accounts/foreseen": {
        ...NOTHING,
        gain: 1,
        turns: [
          given("edit pages"),
          given("see-field berth.dues"),
          given("open the desk", { places: false }),
        ],
        breaks: ["Nobody may edit fees."],
        risks: [{ role: "lead", what: "define roles", why: "They give everything." }],
      },
      "POST /api/accounts/address": { taken: true, shares: false },
      "POST /api/accounts": {
        people: [
          { id: "a", name: "Ada", password: "copper kettle" },
          { id: "b", name: "Bo", password: "slack water" },
        ],
        change_set: "c",
      },
      "POST /api/change-sets/c/undo": {},
    });
    const { queryClient } = await show(<TakeOnPlace />);
    await queryClient.resetQueries();
    const user = userEvent.setup();
    const able = within(screen.getByRole("region", { name: "What they will be able to do" }));
    await able.findByText("edit pages");
    expect(able.getByText("3 pages")).toBeTruthy();
    expect(able.getByText("and 1 thing more")).toBeTruthy();
    expect(able.getByText(/Risky: define roles/)).toBeTruthy();
    expect(able.getByText("Breaks: Nobody may edit fees.")).toBeTruthy();
    await user.type(screen.getByLabelText("Name"), "Ada");
    await user.type(screen.getByLabelText("E-mail address"), "ada@post.example");
    await screen.findByText("Another account has this address.");
    await user.click(screen.getByLabelText(/With a password/));
    expect(screen.queryByLabelText("A word of your own")).toBeNull();
    await user.click(screen.getByRole("button", { name: "Make them" }));
    await screen.findByText("copper kettle");
    expect(screen.getByRole("status").textContent).toContain("shown now, and never again");
    expect(screen.getByText("slack water")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Take it back" }));
    await screen.findByText(/their accounts are disabled/);
    expect(sentTo("POST", "/api/change-sets/c/undo")).toHaveLength(1);
  });
});

describe("the first keyholder", () => {
  it("says who they are on the page that the first link leads to", async () => {
    serve({
      "GET /api/session": session({ actor: null, subject: null }),
      "POST /api/welcome": { purpose: "first", name: "Keyholder", email: "", new_email: "", ends_at: "" },
      "POST /api/welcome/password": { reasons: [] },
      "POST /api/welcome/use": session(),
    });
    await show(<Welcome />, "/welcome#secret");
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText("Your name"), "Ada");
    await user.type(screen.getByLabelText("E-mail address"), "ada@slack.example");
    expect(screen.getByRole("button", { name: "Take the keys" })).toHaveProperty("disabled", true);
    await user.type(screen.getByLabelText("New password"), "copper kettle drifting");
    await user.click(screen.getByRole("button", { name: "Take the keys" }));
    expect(sentTo("POST", "/api/welcome/use").at(-1)?.body).toEqual({
      secret: "secret",
      name: "Ada",
      email: "ada@slack.example",
      password: "copper kettle drifting",
    });
  });
});

describe("on a first visit", () => {
  const NO_WORK = {
    waits: [],
    came_back: [],
    drafts: [],
    left_off: [],
    asked_of_me: [],
    asked: [],
    of_late: [],
  };
  const draft = {
    id: "d",
    title: "A draft",
    type: "berth",
    state: "draft",
    note: "",
    saved_at: "2026-11-29T00:00:00Z",
    saved_by: null,
  };

  it.each([
    ["nothing of one's own", NO_WORK, true],
    ["a draft", { ...NO_WORK, drafts: [draft] }, false],
    ["something that waits", { ...NO_WORK, waits: [draft] }, false],
  ])("with %s on Start, where one may work is told or not", async (_, lists, told) => {
    serve({
      "GET /api/session": session(),
      "GET /api/catalogue": CATALOGUE,
      "GET /api/walk-lists": [],
      "GET /api/desk/offers": { work: [], work_in_all: 0, make_under: {}, waiting: false, bin: false },
      "GET /api/start": {
        parts: ["waits", "drafts", "ends_soon"],
        ends_soon: [{ role: { key: "r", name: "Pilot", cloth: null }, ends: "2026-12-29T00:00:00Z" }],
        ...lists,
      },
    });
    const { queryClient } = await show(<StartPlace />);
    await queryClient.resetQueries();
    await screen.findByText("Ends soon");
    if (told) await screen.findByText("There is nothing here for you to change");
    else {
      await screen.findByText("A draft");
      expect(screen.queryByText("There is nothing here for you to change")).toBeNull();
    }
  });

  it("where one may work is told, and what one may make there", async () => {
    serve({
      "GET /api/desk/offers": {
        work: [
          { id: "m", title: "Moorings", tree: "content", edits: 1, makes: ["events", "articles", "knots"] },
          { id: "p", title: "Pictures", tree: "media", edits: 2, makes: [] },
        ],
        work_in_all: 3,
        make_under: {},
        waiting: false,
        bin: false,
      },
    });
    await show(<WhereToWork />);
    expect((await screen.findByRole("link", { name: "Moorings" })).getAttribute("href")).toBe("/desk/m");
    expect(screen.getByText("you may edit 1 page; you may make events, articles and knots")).toBeTruthy();
    expect(screen.getByRole("link", { name: "Pictures" }).getAttribute("href")).toBe("/desk/p?tree=media");
    expect(screen.getByText("and 1 other place")).toBeTruthy();
  });
});
