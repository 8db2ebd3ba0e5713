// What a cell says, as a plain sentence.
import type { Shapes } from "../api/client";
import { wordsOf } from "../shared/capability";
import type { Catalogue, Role } from "../shared/useRoles";

export type Cell = Shapes["CellShape"];

/** A sentence in three parts; the middle one is what the answer decides. */
export type Sentence = { before: string; stress: string; after: string };

function holders(role: Role): string {
  if (role.baseline === "everyone") return "Everyone, visitors too,";
  if (role.baseline === "signed-in") return "Everyone signed in";
  return `Holders of ${role.name}`;
}

/** What holders of the role may do by this cell, whatever it comes from. */
export function sentence(role: Role, cell: Cell, catalogue: Catalogue): Sentence {
  const { verb, thing, kind } = wordsOf(cell.capability, catalogue);
  const who = holders(role);
  const counts = effective(cell);
  const object = thing ? ` ${thing}` : "";
  if (counts.says === "barred") {
    return { before: `${who} may `, stress: "never", after: ` ${verb}${object}, whatever else they hold.` };
  }
  if (counts.says === null) {
    return { before: `${who} may `, stress: "not", after: ` ${verb}${object} by this role.` };
  }
  if (counts.says === "withheld") {
    return {
      before: `${who} are `,
      stress: "not given",
      after: ` “${verb}${object}” here, though another role gives it.`,
    };
  }
  if (kind === "duty") return { before: `${who} may `, stress: verb, after: "." };
  if (kind === "create") return { before: `${who} may ${verb} `, stress: thing, after: "." };
  const stress = {
    own: `${thing} they wrote themselves`,
    team: `${thing} written by anyone in their team`,
    all: `all ${thing}`,
  }[counts.says as "own" | "team" | "all"];
  return { before: `${who} may ${verb} `, stress: stress ?? thing, after: "." };
}

export function plain({ before, stress, after }: Sentence): string {
  return before + stress + after;
}

export type Source = "own" | "built-on" | "baseline";

/** What counts in a cell: what the role says, else what it builds on says, else what the baseline gives. */
export function effective(cell: Cell): { says: string | null; source: Source } {
  if (cell.said !== null) return { says: cell.said, source: "own" };
  if (cell.inherited !== null && cell.inherited !== "withheld")
    return { says: cell.inherited, source: "built-on" };
  if (cell.baseline !== null) return { says: cell.baseline, source: "baseline" };
  return { says: cell.inherited, source: cell.inherited === null ? "own" : "built-on" };
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

/** What a key says in a cell: undefined when it says nothing here. */
export function saidBy(key: string, duty: boolean): string | null | undefined {
  const says = KEYS[key];
  if (says === undefined) return undefined;
  if (duty ? ["own", "team", "all"].includes(says ?? "") : says === "yes") return undefined;
  return says;
}
