// @vitest-environment jsdom
// A draft or a working copy that saves itself, beside others who save it too.
import { act, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { CATALOGUE, deskPage, sentTo, serve, session, show } from "./serving";

const { PagePane } = await import("../src/desk/PagePane");
const { readTogether } = await import("../src/api/together");
const { WaitingPlace } = await import("../src/desk/WaitingPlace");

const PAGE = "/api/desk/pages/loft";
const LONG = 20_000;

beforeEach(() => void vi.useFakeTimers({ shouldAdvanceTime: true }));
afterEach(() => {
  vi.useRealTimers();
  readTogether(false);
  localStorage.clear();
});

const user = () => userEvent.setup({ advanceTimers: vi.advanceTimersByTime });
const later = () => act(() => vi.advanceTimersByTimeAsync(LONG));

async function opened(address = "/desk/loft", said = {}) {
  serve({
    "GET /api/session": session(said),
    "GET /api/catalogue": CATALOGUE,
    [`GET ${PAGE}`]: deskPage(),
    [`GET ${PAGE}/posts`]: [],
    [`GET ${PAGE}/listing`]: {},
    [`PUT ${PAGE}/here`]: { others: [], tag: "1" },
  });
  const shown = await show(<PagePane node="loft" />, address);
  return { ...shown, title: await screen.findByRole("textbox", { name: /title/i }) };
}

describe("what saves itself", () => {
  it("is saved once nothing was typed for a moment, and waits in the middle of two words", async () => {
    const { title } = await opened();
    serve({ [`PATCH ${PAGE}`]: deskPage({ tag: "2", title: "Sail loft and" }) });
    await user().type(title, " ");
    await later();
    expect(sentTo("PATCH", PAGE)).toHaveLength(0);
    await user().type(title, "and");
    await later();
    const [sent] = sentTo("PATCH", PAGE);
    expect(sent?.body).toEqual({ title: "Sail loft and", sitting: true });
    expect(sentTo("PATCH", PAGE)).toHaveLength(1);
  });

  it("is held back while somebody else's save in between is not decided about", async () => {
    const { title } = await opened();
    const theirs = deskPage({ tag: "2", title: "Theirs", saved_by: "Noor" });
    serve({
      [`PATCH ${PAGE}`]: () => ({ status: 412, body: { reason: "changed-meanwhile", status: 412, theirs } }),
    });
    await user().type(title, "!");
    await later();
    await user().click(await screen.findByRole("button", { name: "Go on editing" }));
    await user().type(title, "?");
    await later();
    expect(sentTo("PATCH", PAGE)).toHaveLength(1);
    serve({ [`PATCH ${PAGE}`]: deskPage({ tag: "3", title: "Sail loft!?" }) });
    await user().click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(sentTo("PATCH", PAGE)).toHaveLength(2));
  });

  it("is not sent again as it was refused, but as it is changed", async () => {
    const { title } = await opened();
    const errors = [{ pointer: "/title", message: "Too long." }];
    serve({
      [`PATCH ${PAGE}`]: () => ({
        status: 422,
        body: { reason: "invalid", status: 422, detail: "Too long.", errors },
      }),
    });
    await user().type(title, "!");
    await later();
    expect(sentTo("PATCH", PAGE)).toHaveLength(1);
    expect(screen.getByText("Too long.")).toBeTruthy();
    await user().type(title, "{Backspace}?");
    await later();
    expect(sentTo("PATCH", PAGE)).toHaveLength(2);
  });

  it("is tried again after a lost connection", async () => {
    const { title } = await opened();
    serve({ [`PATCH ${PAGE}`]: () => Promise.reject(new TypeError("lost")) });
    await user().type(title, "!");
    await later();
    expect(screen.getByText("No connection. What you typed is kept in this browser.")).toBeTruthy();
    serve({ [`PATCH ${PAGE}`]: deskPage({ tag: "2", title: "Sail loft!" }) });
    await later();
    expect(screen.getByText("Saved.")).toBeTruthy();
  });

  it("does not in a rehearsal, where each save would be a step", async () => {
    const { title } = await opened("/desk/loft", { standing_in: { mode: "rehearse" } });
    await user().type(title, "!");
    await later();
    expect(sentTo("PATCH", PAGE)).toHaveLength(0);
    expect(sentTo("PUT", `${PAGE}/here`)).toHaveLength(0);
  });
});

describe("beside others", () => {
  it("what they saved is fetched, unless one typed something oneself", async () => {
    const { title } = await opened();
    serve({
      [`GET ${PAGE}`]: deskPage({ tag: "2", title: "Theirs" }),
      [`PUT ${PAGE}/here`]: { others: [], tag: "2" },
    });
    await later();
    expect(await screen.findByDisplayValue("Theirs")).toBeTruthy();
    serve({ [`PATCH ${PAGE}`]: () => new Promise(() => {}), [`PUT ${PAGE}/here`]: { others: [], tag: "3" } });
    await user().type(title, "!");
    const read = sentTo("GET", PAGE).length;
    await later();
    expect(sentTo("GET", PAGE)).toHaveLength(read);
  });

  it("who they are is told", async () => {
    await opened();
    const others = [
      { name: "Noor", working: true },
      { name: "somebody", working: false },
    ];
    serve({ [`PUT ${PAGE}/here`]: { others, tag: "1" } });
    await later();
    expect(screen.getByText(/Noor \(on the working copy\) and 1 more are here too/)).toBeTruthy();
  });
});

describe("a working copy", () => {
  const copy = (more = {}) =>
    deskPage({ working: true, tag: "c-2", version: 2, may: ["see", "edit", "publish"], ...more });
  const changed = {
    status: 409,
    body: { reason: "public-changed", status: 409, detail: "Changed.", over: 7, since: [] },
  };

  it("is published over a page that was changed once that is meant", async () => {
    serve({ [`GET ${PAGE}/copy`]: copy(), [`GET ${PAGE}/copy/changes`]: { last_public: null, changes: [] } });
    serve({ [`POST ${PAGE}/copy/publish`]: () => changed });
    await opened("/desk/loft?copy");
    await user().click(screen.getByRole("button", { name: "Publish" }));
    serve({ [`POST ${PAGE}/copy/publish`]: deskPage({ state: "published" }) });
    await user().click(await screen.findByRole("button", { name: "Publish the copy over it" }));
    await waitFor(() => expect(sentTo("POST", `${PAGE}/copy/publish`)).toHaveLength(2));
    const [first, second] = sentTo("POST", `${PAGE}/copy/publish`);
    expect([first?.body, second?.body]).toEqual([{}, { over: 7 }]);
    expect(second?.headers.get("If-Match")).toBe('"c-2"');
  });

  it("that is not begun can be neither published nor handed in, nor given up", async () => {
    serve({ [`GET ${PAGE}/copy`]: copy({ version: 0, tag: "1-0" }) });
    await opened("/desk/loft?copy");
    for (const name of ["Publish", "Discard…", "History", "What would change"])
      expect(screen.queryByRole("button", { name })).toBeNull();
  });

  it("that waits is published over the page in the same way", async () => {
    const row = {
      ...copy(),
      handed_in_at: "2026-11-29T00:00:00Z",
      handed_in_by: "Noor",
      was_public: true,
      above: [],
    };
    serve({
      "GET /api/session": session(),
      "GET /api/catalogue": CATALOGUE,
      "GET /api/desk/waiting": [row],
      [`GET ${PAGE}/copy/changes`]: { last_public: null, changes: [] },
      [`POST ${PAGE}/copy/publish`]: () => changed,
    });
    await show(<WaitingPlace />);
    await user().click(await screen.findByRole("button", { name: "Publish Sail loft" }));
    await user().click(await screen.findByRole("button", { name: "Publish the copy over it" }));
    await waitFor(() => expect(sentTo("POST", `${PAGE}/copy/publish`)).toHaveLength(2));
    expect(sentTo("POST", `${PAGE}/copy/publish`)[1]?.body).toEqual({ over: 7 });
  });
});
