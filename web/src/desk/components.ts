// The parts of a page as a list: one more, one fewer, one put elsewhere.
import type { Page, PageComponent } from "./useDesk";

/** The same parts and a new one at the end, under an id that no other has until it is saved. */
export function withPart(
  components: PageComponent[],
  { kind, facets }: Page["insertable"][number],
): PageComponent[] {
  const taken = new Set(components.map(({ id }) => id));
  let n = components.length + 1;
  while (taken.has(`new-${n}`)) n += 1;
  const part = {
    id: `new-${n}`,
    kind,
    props: {},
    facets,
    hidden: [],
    off: false,
    locked: false,
    may_arrange: true,
  };
  return [...components, part];
}

/** The same parts, one of them so many places further down; as they are where there is no such place. */
export function shifted(components: PageComponent[], at: number, step: number): PageComponent[] {
  const part = components[at];
  const other = components[at + step];
  if (!part || !other) return components;
  const list = [...components];
  list[at + step] = part;
  list[at] = other;
  return list;
}
