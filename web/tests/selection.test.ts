// What a word comes to in the cells it is meant for.
import { expect, it } from "vitest";
import { meantBy, saidByKey, saidIn } from "../src/define/selection";
import type { Cell } from "../src/define/sentence";

const GRADED = ["", "own", "team", "all", "withheld", "barred"];
const DUTY = ["", "yes", "withheld", "barred"];
const cell = (capability: string, words: string[]) =>
  ({
    capability,
    said: null,
    outcomes: Object.fromEntries(words.map((word) => [word, {}])),
  }) as unknown as Cell;
const CELLS = new Map(
  [cell("event.edit", GRADED), cell("event.publish", GRADED), cell("desk.open", DUTY)].map((one) => [
    one.capability,
    one,
  ]),
);
const ALL = [...CELLS.values()];

it("a word is said only where it can be said", () => {
  expect(saidIn(ALL, "own")).toEqual(
    new Map([
      ["event.edit", "own"],
      ["event.publish", "own"],
    ]),
  );
  expect(saidIn(ALL, "yes")).toEqual(new Map([["desk.open", "yes"]]));
  expect(saidIn(ALL, "barred").size).toBe(3);
  expect(saidIn(ALL, null)).toEqual(new Map(ALL.map(({ capability }) => [capability, null])));
});

it("a key says its word in all cells that take it, and nothing where none does", () => {
  expect(saidByKey("t", ALL)?.size).toBe(2);
  expect([...(saidByKey("y", ALL) ?? [])]).toEqual([["desk.open", "yes"]]);
  expect(saidByKey("y", ALL.slice(0, 2))).toBeNull();
  expect(saidByKey("q", ALL)).toBeNull();
  expect([...(saidByKey("Backspace", ALL)?.values() ?? [])]).toEqual([null, null, null]);
});

it("what is selected is meant where the current cell is among it, else that cell alone", () => {
  const keys = (cells: Cell[]) => cells.map(({ capability }) => capability);
  const both = new Set(["event.edit", "desk.open"]);
  expect(keys(meantBy("event.edit", both, CELLS))).toEqual(["event.edit", "desk.open"]);
  expect(keys(meantBy("event.publish", both, CELLS))).toEqual(["event.publish"]);
  expect(keys(meantBy("event.edit", new Set(["event.edit"]), CELLS))).toEqual(["event.edit"]);
  expect(meantBy("gone", new Set(), CELLS)).toEqual([]);
});
