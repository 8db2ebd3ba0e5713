// Named actions on many cells at once: what each would say, before anything is staged.
import type { Catalogue } from "../shared/useRoles";
import { becomes, type Cell, effective } from "./sentence";

export type Answers = Map<string, string | null>;
export type Pattern = { name: string; answers: (cells: Cell[]) => Answers };

const verbOf = (cell: Cell) => cell.capability.split(".")[1] ?? "";
const PUBLISHING = ["publish", "retire", "edit-live"];
const WORKING = ["create", "edit", "remove", "move", "restore", "history"];
const READING = ["see", "see-draft", "history"];
const CHANGING = [...PUBLISHING, "create", "edit", "remove", "move", "restore"];

/** What takes a cell away: silence, or a word against what flows in from the role it builds on. */
function withdrawn(cell: Cell): string | null | undefined {
  const { given, source } = effective(cell);
  if (!given || source === "baseline") return undefined;
  const unsaid = becomes(cell, null);
  return unsaid.given && unsaid.source === "built-on" ? "withheld" : null;
}

function answersOf(cells: Cell[], word: (cell: Cell) => string | null | undefined): Answers {
  const found: Answers = new Map();
  for (const cell of cells) {
    const says = word(cell);
    if (says !== undefined && says !== cell.said) found.set(cell.capability, says);
  }
  return found;
}

export const PATTERNS: Pattern[] = [
  {
    name: "Take every removal away",
    answers: (cells) => answersOf(cells, (cell) => (verbOf(cell) === "remove" ? withdrawn(cell) : undefined)),
  },
  {
    name: "Take publishing away",
    answers: (cells) =>
      answersOf(cells, (cell) => (PUBLISHING.includes(verbOf(cell)) ? withdrawn(cell) : undefined)),
  },
  {
    name: "Own work only",
    answers: (cells) =>
      answersOf(cells, (cell) => {
        const { says, source } = effective(cell);
        const wider = says === "team" || says === "all";
        return wider && source !== "baseline" && !["see", "create"].includes(verbOf(cell))
          ? "own"
          : undefined;
      }),
  },
  {
    name: "Read only",
    answers: (cells) =>
      answersOf(cells, (cell) => (CHANGING.includes(verbOf(cell)) ? withdrawn(cell) : undefined)),
  },
  {
    name: "Everything but publishing",
    answers: (cells) =>
      answersOf(cells, (cell) => {
        if (PUBLISHING.includes(verbOf(cell))) return withdrawn(cell);
        const wanted = [...READING, ...WORKING].includes(verbOf(cell));
        return wanted && effective(cell).says !== "all" && "all" in cell.outcomes ? "all" : undefined;
      }),
  },
  { name: "Say nothing", answers: (cells) => answersOf(cells, () => null) },
];

/** The answers of one kind of content, said of other kinds too. */
export function sameAs(
  kind: string,
  others: string[],
  cells: Map<string, Cell>,
  catalogue: Catalogue,
): Answers {
  const found: Answers = new Map();
  for (const other of others) {
    for (const { key: verb } of catalogue.verbs) {
      const from = cells.get(`${kind}.${verb}`);
      const to = cells.get(`${other}.${verb}`);
      if (from && to && to.said !== from.said) found.set(to.capability, from.said);
    }
  }
  return found;
}

/** What another role may, of what one wrote oneself alone; seeing and making as there. */
export function asButOwn(cells: Cell[], other: Map<string, Cell>): Answers {
  return answersOf(cells, (cell) => {
    const from = other.get(cell.capability);
    const theirs = from && effective(from);
    if (!theirs?.given || theirs.source === "baseline") return withdrawn(cell);
    const whole = !("own" in cell.outcomes) || ["see", "create"].includes(verbOf(cell));
    const says = whole ? theirs.says : "own";
    return says === effective(cell).says ? undefined : says;
  });
}

/** What a role said when it came with the site, where it says something else now. */
export function asShipped(cells: Cell[], shipped: Record<string, string>): Answers {
  return answersOf(cells, (cell) => shipped[cell.capability] ?? null);
}
