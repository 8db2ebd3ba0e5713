// @vitest-environment jsdom
// What is staged: undone, asked anew and previewed, drawn in a document without a browser.
import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import { sentTo, serve, session, show } from "./serving";

const { Tray } = await import("../src/shared/changes/Tray");
const { accessChanged, stagingChanged } = await import("../src/shared/query");
const { keys } = await import("../src/shared/keys");
const { Preview } = await import("../src/define/Preview");

const PILOT = "pilot";

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
    let answer = () => {};
    const waits = new Promise<void>((done) => {
      answer = done;
    });
    serve({
      "GET /api/session": session(),
      "POST /api/change-set/preview/touched": async (body: { operations: unknown[] }) => {
        if (body.operations.length > 1) await waits;
        return { body: told(body.operations.length) };
      },
    });
    await show(<Proposing />);
    await screen.findByText(/1 account gain/);
    await userEvent.click(screen.getByRole("button", { name: "More" }));
    expect(screen.queryByText(/1 account gain/)).toBeNull();
    expect(screen.getByText("Counting whom it touches…")).toBeTruthy();
    answer();
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
