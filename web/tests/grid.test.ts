// Where cells lie on the board, and moving among them.
import { describe, expect, it, test } from "vitest";
import { between, find, moved, rowsOf } from "../src/define/grid";
import { boardItems } from "../src/define/virtual";
import { CATALOGUE } from "./harbour";

const ALL = rowsOf(CATALOGUE, () => true);
const at = (row: number, column: number) => ({ row, column });

test("kinds of content come first, then media, then duties five to a row, then markup sets", () => {
  expect(ALL.map(({ area, name, capabilities }) => [area, name, capabilities.length])).toEqual([
    ["Content", "Event", 5],
    ["Content", "Berth page", 5],
    ["Media", "Picture", 5],
    ["Duties", "Duties", 5],
    ["Duties", "Duties", 1],
    ["Markup sets", "Markup sets", 1],
  ]);
});

test("of a kind all cells are shown where any is; of duties those alone", () => {
  const rows = rowsOf(CATALOGUE, (capability) => ["berth.edit", "limits.set"].includes(capability));
  expect(rows.map(({ capabilities }) => capabilities)).toEqual([
    ["berth.see", "berth.create", "berth.edit", "berth.publish", "berth.remove"],
    ["limits.set"],
  ]);
});

describe("keys", () => {
  it("lead to the next cell, and stay at an edge", () => {
    expect(moved(ALL, at(0, 0), "ArrowDown", false)).toEqual(at(1, 0));
    expect(moved(ALL, at(0, 0), "ArrowRight", false)).toEqual(at(0, 1));
    expect(moved(ALL, at(0, 0), "ArrowUp", false)).toEqual(at(0, 0));
    expect(moved(ALL, at(0, 4), "ArrowRight", false)).toEqual(at(0, 4));
    expect(moved(ALL, at(5, 0), "ArrowDown", false)).toEqual(at(5, 0));
  });
  it("lead into a shorter row at its end", () => {
    expect(moved(ALL, at(3, 4), "ArrowDown", false)).toEqual(at(4, 0));
  });
  it("lead to the ends of a row, and with Ctrl to those of the board", () => {
    expect(moved(ALL, at(1, 2), "Home", false)).toEqual(at(1, 0));
    expect(moved(ALL, at(1, 2), "End", false)).toEqual(at(1, 4));
    expect(moved(ALL, at(1, 2), "Home", true)).toEqual(at(0, 0));
    expect(moved(ALL, at(1, 2), "End", true)).toEqual(at(5, 0));
  });
  it("that do not move lead nowhere", () => {
    expect(moved(ALL, at(1, 2), "o", false)).toBeNull();
  });
  it("on a board that a filter emptied lead nowhere", () => {
    expect(moved([], at(0, 0), "ArrowDown", false)).toBeNull();
  });
});

test("a rectangle is the same from either corner, and has no cells beyond a short row", () => {
  const some = between(ALL, at(0, 3), at(1, 4));
  expect([...some]).toEqual(["event.publish", "event.remove", "berth.publish", "berth.remove"]);
  expect(between(ALL, at(1, 4), at(0, 3))).toEqual(some);
  expect([...between(ALL, at(4, 0), at(5, 4))]).toEqual(["roles.define", "markup.plain"]);
});

test("a cell is found by its capability", () => {
  expect(find(ALL, "berth.publish")).toEqual(at(1, 3));
  expect(find(ALL, "markup.plain")).toEqual(at(5, 0));
  expect(find(ALL, "tide.measure")).toBeNull();
});

test("every cell is found where it lies", () => {
  for (const [row, { capabilities }] of ALL.entries()) {
    for (const [column, capability] of capabilities.entries()) {
      expect(find(ALL, capability)).toEqual(at(row, column));
    }
  }
});

test("a folded area keeps its head, and hides its rows", () => {
  const told = (folded: string[]) => boardItems(ALL, folded).map(({ area, row }) => row?.name ?? `# ${area}`);
  expect(told([])).toEqual([
    "# Content",
    "Event",
    "Berth page",
    "# Media",
    "Picture",
    "# Duties",
    "Duties",
    "Duties",
    "# Markup sets",
    "Markup sets",
  ]);
  expect(told(["Content", "Duties"])).toEqual([
    "# Content",
    "# Media",
    "Picture",
    "# Duties",
    "# Markup sets",
    "Markup sets",
  ]);
});
