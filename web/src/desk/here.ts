// What of a part is typed where it stands on the page; the rest of it is asked for on the right.
import type { Shapes } from "../api/client";
import type { Catalogue } from "../shared/useRoles";
import type { PageComponent } from "./useDesk";

type Known = Catalogue["components"][number];

/** What each shape draws that can be typed in its place. */
const TYPED: Record<Shapes["DrawnShape"]["shape"], string[]> = {
  heading: ["text"],
  prose: ["html"],
  figure: ["picture", "caption"],
  table: ["caption", "rows"],
  button: ["label"],
  notice: ["text"],
  line: ["text"],
  quote: ["text", "by"],
  pages: ["heading"],
};
const KINDS = ["text", "rich", "rows", "picture"];

/** What stands on the right as well: whole tables, and pictures without a pointer. */
export const IN_BOTH = ["rows", "picture"];

/** Typing in a part: its properties that are typed on the page, what they are called, and what is done with them. */
export type Here = {
  keys: Set<string>;
  nameOf: (key: string) => string;
  /** What stands where nothing is typed yet. */
  emptyOf: (key: string) => string;
  put: (key: string, value: unknown) => void;
};

/** The properties of a part that whoever looks may type where they stand. */
export function typedHere({ facets, hidden, off }: PageComponent, known?: Known): Set<string> {
  if (off || !known) return new Set();
  const drawn = known.drawn.flatMap(({ shape, filled }) => TYPED[shape].map((slot) => filled[slot]));
  const open = known.properties.filter(
    ({ key, kind, facet }) =>
      KINDS.includes(kind) && facets[facet] && !hidden.includes(key) && drawn.includes(key),
  );
  return new Set(open.map(({ key }) => key));
}

/** The same parts with one property of one of them changed. */
export function withProperty(components: PageComponent[], id: string, key: string, value: unknown) {
  return components.map((part) =>
    part.id === id ? { ...part, props: { ...part.props, [key]: value } } : part,
  );
}
