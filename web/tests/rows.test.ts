// Where a page of the tree is dropped or stepped to, and what a mark of the Limit tree says.
import type { DragEvent } from "react";
import { describe, expect, it, vi } from "vitest";

vi.stubGlobal("document", { cookie: "" });
const { beside, dropOn } = await import("../src/desk/deskRows");
const { markWords } = await import("../src/limit/MarkedTree");

const node = (id: string, parent: string | null) => ({ id, parent, title: id }) as never;

/** A pointer so far beneath the top of a row that is 30 high and stands at 100. */
function pointer(y: number) {
  const currentTarget = { getBoundingClientRect: () => ({ top: 100, height: 30 }) };
  return { currentTarget, clientY: 100 + y } as unknown as DragEvent<HTMLElement>;
}

describe("a page that is dropped", () => {
  it("stands before the row whose upper third it is dropped on, else beneath it", () => {
    expect(dropOn(pointer(9), node("fees", "home"))).toEqual({ id: "fees", before: true });
    expect(dropOn(pointer(11), node("fees", "home"))).toEqual({ id: "fees", before: false });
  });

  it("stands beneath a home page, wherever it is dropped on it", () => {
    expect(dropOn(pointer(1), node("home", null))).toEqual({ id: "home", before: false });
  });
});

describe("a page that steps", () => {
  const nodes = [node("home", null), ...["one", "two", "three", "four"].map((id) => node(id, "home"))];

  it("changes places with the neighbour above or below", () => {
    expect(beside(nodes, "two", -1)).toEqual({ before: "one" });
    expect(beside(nodes, "two", 1)).toEqual({ before: "four" });
  });

  it("goes to the end, and no farther", () => {
    expect(beside(nodes, "three", 1)).toEqual({ before: null });
    expect(beside(nodes, "four", 1)).toBeNull();
    expect(beside(nodes, "one", -1)).toBeNull();
    expect(beside(nodes, "home", 1)).toBeNull();
  });
});

describe("a mark", () => {
  const mark = { extent: 2, barred: false, outside: false, stopped: false, baseline: false, set: "" };

  it("says how far somebody reaches, or what keeps them out", () => {
    const say = (more = {}) => markWords({ ...mark, ...more } as never, "edit");
    expect(say()).toBe("edit: for their team’s");
    expect(say({ set: "stop" })).toBe("edit: for their team’s, a stop is set here");
    expect(say({ outside: true })).toBe("edit: out of reach");
    expect(say({ outside: true, barred: true, set: "bar" })).toBe("edit: barred, a bar is set here");
  });
});
