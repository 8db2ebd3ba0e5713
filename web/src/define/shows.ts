// What a board can be brought down to: its cells by what counts in them, and by the words they are found by.
import { headOf, wordsOf } from "../shared/capability";
import type { Catalogue, Role } from "../shared/useRoles";
import { type Cell, effective } from "./sentence";
import type { Board } from "./useBoard";

export type Show = { name: string; keep: (cell: Cell) => boolean };
export type Cells = Map<string, Cell>;

const SHOWS: Record<string, Show> = {
  "": { name: "Everything", keep: () => true },
  given: { name: "Given", keep: (cell) => !["barred", "withheld", null].includes(cell.said) },
  barred: { name: "Barred", keep: (cell) => effective(cell).says === "barred" },
  "built-on": { name: "Built on", keep: (cell) => effective(cell).source === "built-on" },
  baseline: { name: "Baseline", keep: (cell) => effective(cell).source === "baseline" },
  staged: { name: "Staged", keep: (cell) => cell.staged },
};

/** Every choice by its key; of those that differ from another role, once its cells are there. */
export function showsOf(
  catalogue: Catalogue,
  sections: Board["sections"],
  other?: Role,
  there?: Cells,
): Record<string, Show> {
  const risky = new Set(catalogue.duties.filter(({ risk }) => risk).map(({ key }) => key));
  const fresh = new Set(catalogue.new);
  const amiss = new Set(sections.flatMap(({ section, shut }) => [section, ...shut]));
  const shows = {
    ...SHOWS,
    risky: { name: "Risky", keep: (cell: Cell) => risky.has(cell.capability) && effective(cell).given },
    amiss: { name: "Does not fit", keep: (cell: Cell) => amiss.has(cell.capability) },
    new: { name: "New", keep: (cell: Cell) => fresh.has(cell.capability) },
  };
  if (!other || !there) return shows;
  return { ...shows, differs: { name: `Differs from ${other.name}`, keep: differsFrom(there) } };
}

function differsFrom(there: Cells) {
  return (cell: Cell) => {
    const theirs = there.get(cell.capability);
    return theirs !== undefined && effective(theirs).says !== effective(cell).says;
  };
}

/** Whether a capability has each of the words typed in its own: that of its kind, verb and thing. */
export function matcher(words: string, catalogue: Catalogue): (capability: string) => boolean {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  return (capability) => {
    if (wanted.length === 0) return true;
    const { verb, thing } = wordsOf(capability, catalogue);
    const text = `${headOf(capability, catalogue)} ${verb} ${thing}`.toLowerCase();
    return wanted.every((word) => text.includes(word));
  };
}
