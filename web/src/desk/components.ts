// The parts of a page as a list: one more, one again, one fewer, one put elsewhere.
import { arrayMove } from "@dnd-kit/sortable";
import type { Page, PageComponent } from "./useDesk";

type Insertable = Page["insertable"][number];

let made = 0;

/** The same parts and a new one at a place, under an id that no other has until it is saved. */
export function withPart(
  components: PageComponent[],
  at: number,
  { kind, facets }: Insertable,
  props: PageComponent["props"] = {},
): PageComponent[] {
  const taken = new Set(components.map(({ id }) => id));
  do made += 1;
  while (taken.has(`new-${made}`));
  const part = {
    id: `new-${made}`,
    kind,
    props,
    facets,
    hidden: [],
    off: false,
    locked: false,
    may_arrange: true,
  };
  return components.toSpliced(at, 0, part);
}

/** The same parts and one of them once more after itself; `facetOf` tells the facet of a property of it.
 *
 * Of facets that may not be changed in a new part nothing is copied. */
export function withCopy(
  components: PageComponent[],
  at: number,
  as: Insertable,
  facetOf: (property: string) => string | undefined,
): PageComponent[] {
  const props = Object.entries(components[at]?.props ?? {});
  const open = props.filter(([key]) => as.facets[facetOf(key) ?? ""]);
  return withPart(components, at + 1, as, Object.fromEntries(open));
}

/** The same parts, one of them so many places further down; as they are where there is no such place. */
export function shifted(components: PageComponent[], at: number, step: number): PageComponent[] {
  return components[at] && components[at + step] ? arrayMove(components, at, at + step) : components;
}

const drawnAs = new Map<string, string>();

/** Under what a part is drawn: the id it had first, so that whoever types in it stays there once it is saved. */
export function drawnKey(id: string): string {
  return drawnAs.get(id) ?? id;
}

/** The ids that parts have since they were saved, by those that were sent. */
export function newIds(sent: PageComponent[], saved: PageComponent[]): Map<string, string> {
  const ids = new Map(sent.map(({ id }, at) => [id, saved[at]?.id ?? id]));
  for (const [before, now] of ids) if (before !== now) drawnAs.set(now, drawnKey(before));
  return ids;
}
