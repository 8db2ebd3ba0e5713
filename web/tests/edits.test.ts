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
  describe("over a save", () => {
    const part = (id: string, text: string) => ({ id, kind: "heading", props: { text } }) as unknown as Part;
    type Part = NonNullable<Steps["now"]["components"]>[number];
    const saved = (steps: Steps, sent: Steps["now"], before: Steps["now"], ids: [string, string][] = []) =>
      stepped(steps, { kind: "saved", saved: { sent, before, ids: new Map(ids) } });

    it("are as saved, and lead back to what stood there before", () => {
      const typed = type(none, "B", 0);
      const after = saved(typed, typed.now, { title: "A" });
      expect(after.now).toEqual({});
      expect(stepped(after, { kind: "undo" }).now).toEqual({ title: "A" });
      expect(stepped(stepped(after, { kind: "undo" }), { kind: "redo" }).now).toEqual({});
    });
    it("keep what was typed meanwhile", () => {
      const sent = type(none, "B", 0);
      const on = type(sent, "BC", 100);
      expect(saved(on, sent.now, { title: "A" }).now).toEqual({ title: "BC" });
    });
    it("leave other values as they are", () => {
      const values = (steps: Steps, said: Record<string, unknown>, at: number) =>
        stepped(steps, { kind: "change", next: { values: { ...steps.now.values, ...said } }, what: "v", at });
      const both = values(values(none, { place: "quay" }, 0), { seats: 3 }, 5000);
      const after = saved(both, both.now, { values: { place: "", seats: null } });
      expect(after.now).toEqual({});
      expect(stepped(after, { kind: "undo" }).now).toEqual({ values: { seats: null } });
    });
    it("know a new part by the id it has since", () => {
      const put = (steps: Steps, components: Part[], at: number) =>
        stepped(steps, { kind: "change", next: { components }, what: `${at}`, at });
      const sent = put(none, [part("new-1", "First")], 0);
      const on = put(sent, [part("new-1", "First and last")], 5000);
      const after = saved(on, sent.now, { components: [] }, [["new-1", "real"]]);
      expect(after.now.components?.map(({ id }) => id)).toEqual(["real"]);
      const back = stepped(stepped(after, { kind: "undo" }), { kind: "undo" });
      expect(back.now.components).toEqual([]);
    });
  });
});
