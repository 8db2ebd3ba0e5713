// What can be said in a cell, with the key and the mark of each word.

import type { Hang } from "../cloth/Mark";
import type { Cell } from "./sentence";

export type Choice = { says: string | null; name: string; key: string; hang: Hang };

const CHOICES: Choice[] = [
  { says: null, name: "None", key: "Backspace", hang: "nothing" },
  { says: "own", name: "Own", key: "o", hang: "own" },
  { says: "team", name: "Team", key: "t", hang: "team" },
  { says: "all", name: "All", key: "a", hang: "all" },
  { says: "yes", name: "Yes", key: "y", hang: "all" },
  { says: "withheld", name: "Withheld", key: "w", hang: "withheld" },
  { says: "barred", name: "Barred", key: "b", hang: "barred" },
];

export function choices(cell: Cell): Choice[] {
  return CHOICES.filter(({ says }) => (says ?? "") in cell.outcomes);
}
