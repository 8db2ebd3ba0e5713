// What can be said in a cell, with the key and the mark of each word.

import type { MarkExtent } from "../cloth/Mark";
import { type Cell, takes } from "./sentence";

export type Choice = { says: string | null; name: string; key: string; extent: MarkExtent };

const CHOICES: Choice[] = [
  { says: null, name: "None", key: "Backspace", extent: "nothing" },
  { says: "own", name: "Own", key: "o", extent: "own" },
  { says: "team", name: "Team", key: "t", extent: "team" },
  { says: "all", name: "All", key: "a", extent: "all" },
  { says: "yes", name: "Yes", key: "y", extent: "all" },
  { says: "withheld", name: "Withheld", key: "w", extent: "withheld" },
  { says: "barred", name: "Barred", key: "b", extent: "barred" },
];

export function choices(cell: Cell): Choice[] {
  return CHOICES.filter(({ says }) => takes(cell, says));
}
