// What a board can be brought down to.
import { expect, test } from "vitest";
import type { Cell } from "../src/define/sentence";
import { matcher, showsOf } from "../src/define/shows";
import type { Catalogue } from "../src/shared/useRoles";
import { CATALOGUE, cell, role } from "./harbour";

const RISKY_LIMITS = {
  ...CATALOGUE,
  new: ["berth.edit"],
  duties: CATALOGUE.duties.map((duty) =>
    duty.key === "limits.set" ? { ...duty, risk: "Reaches all." } : duty,
  ),
} as Catalogue;

const GIVEN = cell("event.edit", "own");
const WITHHELD = cell("event.remove", "withheld");
const BARRED = cell("event.publish", "barred");
const FLOWING = cell("berth.edit", null, { says: "all", source: "built-on" });
const CELLS = [GIVEN, WITHHELD, BARRED, FLOWING];

function kept(show: string, cells: Cell[], shows = showsOf(RISKY_LIMITS, [])): string[] {
  const chosen = shows[show];
  if (!chosen) throw new Error(`nothing is shown by ${show}`);
  return cells.filter(chosen.keep).map(({ capability }) => capability);
}

test("what is given, barred, built on and had from the baseline is told apart", () => {
  const everyones = cell("event.see", null, { says: "all", source: "baseline" });
  expect(kept("", CELLS)).toHaveLength(4);
  expect(kept("given", CELLS)).toEqual(["event.edit"]);
  expect(kept("barred", CELLS)).toEqual(["event.publish"]);
  expect(kept("built-on", [...CELLS, everyones])).toEqual(["berth.edit"]);
  expect(kept("baseline", [...CELLS, everyones])).toEqual(["event.see"]);
});

test("staged are the cells with something not yet published", () => {
  expect(kept("staged", [GIVEN, { ...FLOWING, staged: true }])).toEqual(["berth.edit"]);
});

test("risky is what carries a risk and is given, new what nobody has looked at", () => {
  const cells = [cell("limits.set", "yes"), cell("limits.set"), cell("locks.open", "yes"), FLOWING];
  expect(kept("risky", cells)).toEqual(["limits.set"]);
  expect(kept("new", cells)).toEqual(["berth.edit"]);
});

test("what does not fit is a section that is open around nothing, or closed, and what is given for it", () => {
  const shows = showsOf(CATALOGUE, [
    { section: "media.open", shut: [] },
    { section: "content.open", shut: ["event.edit"] },
  ]);
  const sections = [cell("media.open", "yes"), cell("content.open"), cell("topics.open", "yes")];
  expect(kept("amiss", [...CELLS, ...sections], shows)).toEqual(["event.edit", "media.open", "content.open"]);
});

test("another role is held against this one by what counts there, once its cells are known", () => {
  const there = [cell("event.edit", "all"), WITHHELD, BARRED, cell("berth.edit", "all")];
  const other = role({ key: "guide", name: "Guide" });
  const shows = showsOf(CATALOGUE, [], other, new Map(there.map((one) => [one.capability, one])));
  expect(shows.differs?.name).toBe("Differs from Guide");
  expect(kept("differs", CELLS, shows)).toEqual(["event.edit"]);
  expect(showsOf(CATALOGUE, [], other)).not.toHaveProperty("differs");
});

test("words are looked for in kind, verb and thing, each of them, in either case", () => {
  expect(matcher("", CATALOGUE)("event.edit")).toBe(true);
  expect(matcher("BERTH  edit", CATALOGUE)("berth.edit")).toBe(true);
  expect(matcher("berth edit", CATALOGUE)("event.edit")).toBe(false);
  expect(matcher("ledger", CATALOGUE)("ledger.read")).toBe(true);
});
