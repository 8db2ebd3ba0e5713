// What a cell says, as a plain sentence: the server tells what counts and how that reads.
import type { Shapes } from "../api/client";
import { wordsOf } from "../shared/capability";
import type { Catalogue, Role } from "../shared/useRoles";

export type Outcome = Shapes["OutcomeShape"];

/** What a cell comes to, by the word it says; the empty word is nothing said. */
export type Outcomes = Record<string, Outcome>;
export type Cell = Omit<Shapes["CellShape"], "outcomes"> & { outcomes: Outcomes };

/** A sentence in three parts; the middle one is what the answer decides. */
export type Sentence = { before: string; stress: string; after: string };

/** What counts in a cell as it stands. */
export function effective(cell: Cell): Outcome {
  return becomes(cell, cell.said);
}

/** What would count in a cell, if it said a word itself. */
export function becomes(cell: Cell, said: string | null): Outcome {
  const outcome = cell.outcomes[said ?? ""];
  if (!outcome) throw new Error(`${cell.capability} cannot say ${said}`);
  return outcome;
}

/** What holders of the role may do by this cell, whatever it comes from. */
export function sentence(role: Role, cell: Cell, catalogue: Catalogue): Sentence {
  const { verb, thing, which } = wordsOf(cell.capability, catalogue);
  const words: Record<string, string> = {
    who: role.subject,
    what: thing ? `${verb} ${thing}` : verb,
    verb: which ? verb.slice(0, -which.length - 1) : verb,
    things: which ? `${which} ${thing}` : thing,
  };
  const parts = catalogue.sentences[effective(cell).form] ?? [];
  const [before = "", stress = "", after = ""] = parts.map((part) =>
    part.replaceAll(/\{(\w+)\}/g, (_, word) => words[word] ?? ""),
  );
  return { before, stress, after };
}

export function plain({ before, stress, after }: Sentence): string {
  return before + stress + after;
}

const KEYS: Record<string, string | null> = {
  o: "own",
  t: "team",
  a: "all",
  y: "yes",
  w: "withheld",
  b: "barred",
  Backspace: null,
  Delete: null,
};

/** Whether a word can be said in a cell; null is nothing said. */
export function takes(cell: Cell, says: string | null): boolean {
  return (says ?? "") in cell.outcomes;
}

/** What a key says in a cell: undefined when it says nothing here. */
export function saidBy(key: string, cell: Cell): string | null | undefined {
  const says = KEYS[key];
  return says === undefined || !takes(cell, says) ? undefined : says;
}
