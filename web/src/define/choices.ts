// What can be said in a cell, with the key and the mark of each word.

import type { Hang } from "../cloth/Mark";
import type { Catalogue } from "../shared/useRoles";
import type { Cell } from "./sentence";

export type Choice = { says: string | null; name: string; key: string; hang: Hang };

export function choices(cell: Cell, catalogue: Catalogue): Choice[] {
  const duty = catalogue.duties.some((d) => d.key === cell.capability);
  const given: Choice[] = duty
    ? [{ says: "yes", name: "Yes", key: "y", hang: "all" }]
    : [
        { says: "own", name: "Own", key: "o", hang: "own" },
        { says: "team", name: "Team", key: "t", hang: "team" },
        { says: "all", name: "All", key: "a", hang: "all" },
      ];
  return [
    { says: null, name: "None", key: "Backspace", hang: "nothing" },
    ...given,
    { says: "withheld", name: "Withheld", key: "w", hang: "withheld" },
    { says: "barred", name: "Barred", key: "b", hang: "barred" },
  ];
}
