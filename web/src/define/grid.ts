// Where cells lie on the board, and moving among them: a small grid of rows that may differ in length.
import { profilesOf } from "../shared/capability";
import type { Catalogue } from "../shared/useRoles";

export const DUTY_COLUMNS = 5;
const MARKUP = "Markup sets";
const PEOPLE = "People";

export type Row = { key: string; area: string; name: string; capabilities: string[]; duties: boolean };
export type Place = { row: number; column: number };

/** Kinds of content by verbs, media by verbs, profiles, then the duties and the markup sets five to a row. */
export function rowsOf(catalogue: Catalogue, shown: (capability: string) => boolean): Row[] {
  const rows: Row[] = [];
  for (const [tree, area] of [
    ["content", "Content"],
    ["media", "Media"],
  ]) {
    for (const type of catalogue.types.filter((t) => t.tree === tree)) {
      const capabilities = catalogue.verbs.map((verb) => `${type.key}.${verb.key}`);
      if (capabilities.some(shown))
        rows.push({ key: type.key, area: area ?? "", name: type.name, capabilities, duties: false });
    }
  }
  const profiles = profilesOf(catalogue).filter(shown);
  if (profiles.length > 0)
    rows.push({ key: `${PEOPLE} 0`, area: PEOPLE, name: PEOPLE, capabilities: profiles, duties: true });
  for (const area of ["Duties", MARKUP]) {
    const duties = catalogue.duties
      .filter((duty) => shown(duty.key) && (duty.area === MARKUP) === (area === MARKUP))
      .map((duty) => duty.key);
    for (let i = 0; i < duties.length; i += DUTY_COLUMNS) {
      const capabilities = duties.slice(i, i + DUTY_COLUMNS);
      rows.push({ key: `${area} ${i}`, area, name: area, capabilities, duties: true });
    }
  }
  return rows;
}

const STEPS: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};

/** Where a key leads from a place; null when the key does not move. */
export function moved(rows: Row[], from: Place, key: string, control: boolean): Place | null {
  if (rows.length === 0) return null;
  const clamp = (row: number, column: number): Place => {
    const r = Math.min(Math.max(row, 0), rows.length - 1);
    const length = rows[r]?.capabilities.length ?? 1;
    return { row: r, column: Math.min(Math.max(column, 0), length - 1) };
  };
  const step = STEPS[key];
  if (step) return clamp(from.row + step[0], from.column + step[1]);
  if (key === "Home") return clamp(control ? 0 : from.row, 0);
  if (key === "End") return clamp(control ? rows.length - 1 : from.row, Number.MAX_SAFE_INTEGER);
  return null;
}

/** Every capability in the rectangle between two places. */
export function between(rows: Row[], a: Place, b: Place): Set<string> {
  const found = new Set<string>();
  for (let row = Math.min(a.row, b.row); row <= Math.max(a.row, b.row); row++) {
    for (let column = Math.min(a.column, b.column); column <= Math.max(a.column, b.column); column++) {
      const capability = rows[row]?.capabilities[column];
      if (capability) found.add(capability);
    }
  }
  return found;
}

export function find(rows: Row[], capability: string): Place | null {
  for (const [row, { capabilities }] of rows.entries()) {
    const column = capabilities.indexOf(capability);
    if (column >= 0) return { row, column };
  }
  return null;
}
