// Steps of editing a page: undone, done again, and typing that is one step.
import { describe, expect, it } from "vitest";
import { stepped } from "../src/desk/useEdits";

const none = { past: [], now: {}, future: [], last: null };
type Steps = Parameters<typeof stepped>[0];
const type = (steps: Steps, title: string, at: number) =>
  stepped(steps, { kind: "change", next: { title }, what: "title", at });

describe("steps of editing", () => {
  it("go back to what is saved, and forth again", () => {
    const typed = stepped(type(none, "A", 0), {
      kind: "change",
      next: { topics: ["tides"] },
      what: "topics",
      at: 10,
    });
    const back = stepped(stepped(typed, { kind: "undo" }), { kind: "undo" });
    expect(back.now).toEqual({});
    expect(stepped(back, { kind: "undo" })).toBe(back);
    const forth = stepped(stepped(back, { kind: "redo" }), { kind: "redo" });
    expect(forth.now).toEqual({ title: "A", topics: ["tides"] });
    expect(stepped(forth, { kind: "redo" })).toBe(forth);
  });
  it("are one where typing goes on, and two after a pause or an undoing", () => {
    const word = type(type(none, "A", 0), "AB", 900);
    expect(word.past).toHaveLength(1);
    expect(type(word, "ABC", 2000).past).toHaveLength(2);
    expect(type(stepped(word, { kind: "undo" }), "Z", 901).past).toHaveLength(1);
  });
  it("that were undone are gone once something else is changed, and all are once it is saved", () => {
    const undone = stepped(type(none, "A", 0), { kind: "undo" });
    expect(type(undone, "B", 5000).future).toEqual([]);
    expect(stepped(type(none, "A", 0), { kind: "forget" })).toEqual(none);
  });
});
