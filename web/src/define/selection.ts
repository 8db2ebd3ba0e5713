// What a word comes to in the cells it is meant for, by a key or by the mouse: those that take it.
import type { Answers } from "./patterns";
import { type Cell, saidBy, takes } from "./sentence";

/** A word said in those of some cells that take it. */
export function saidIn(cells: Cell[], says: string | null): Answers {
  return new Map(cells.filter((cell) => takes(cell, says)).map((cell) => [cell.capability, says]));
}

/** What a key says in some cells; null when it says nothing in any of them. */
export function saidByKey(key: string, cells: Cell[]): Answers | null {
  const first = cells.find((cell) => saidBy(key, cell) !== undefined);
  if (!first) return null;
  return saidIn(cells, saidBy(key, first) ?? null);
}

/** The cells that a word is meant for: all that are selected where the current one is among them, else that one alone. */
export function meantBy(current: string, selected: Set<string>, cells: Map<string, Cell>): Cell[] {
  const meant = selected.has(current) ? [...selected] : [current];
  return meant.map((capability) => cells.get(capability)).filter((cell) => cell !== undefined);
}
