// Lists of components and facets: what a role says of them, what that allows, and setting many of them at once.
import type { Operation } from "../shared/changes/changeSet";
import type { Catalogue } from "../shared/useRoles";
import type { Board } from "./useBoard";

export type Listed = Board["components"];

/** What a list allows: what is said, else what is inherited, else everything. */
export function allowed(listed: Listed, all: string[]): string[] {
  return listed.said ?? listed.inherited ?? all;
}

export function toggled(list: string[], one: string): string[] {
  return list.includes(one) ? list.filter((other) => other !== one) : [...list, one];
}

/** Of every component that has any the wording, and nothing else of it. */
export function wordsOnly(role: string, catalogue: Catalogue): Operation[] {
  return catalogue.components.map(({ key, facets }) =>
    setFacets(
      role,
      key,
      facets.filter((facet) => facet === "wording"),
    ),
  );
}

/** A whole row: all facets of a component, or none where all of them are allowed already. */
export function wholeRow(role: string, component: string, listed: Listed, all: string[]): Operation[] {
  const every = all.every((facet) => allowed(listed, all).includes(facet));
  return [setFacets(role, component, every ? [] : all)];
}

/** A whole column: one facet of every component that has it, or of none where all have it already. */
export function wholeColumn(role: string, facet: string, board: Board, catalogue: Catalogue): Operation[] {
  const having = catalogue.components
    .filter(({ facets }) => facets.includes(facet))
    .map(({ key, facets }) => {
      const listed = board.facets.find(({ component }) => component === key);
      return { key, now: listed ? allowed(listed, facets) : facets };
    });
  const every = having.every(({ now }) => now.includes(facet));
  return having
    .filter(({ now }) => now.includes(facet) === every)
    .map(({ key, now }) => setFacets(role, key, toggled(now, facet)));
}

/** The column of what may be inserted: every component, or none where all may be already. */
export function wholeInsert(role: string, listed: Listed, every: string[]): Operation[] {
  const all = every.every((one) => allowed(listed, every).includes(one));
  return [{ kind: "set-components", role, components: all ? [] : every }];
}

function setFacets(role: string, component: string, facets: string[]): Operation {
  return { kind: "set-facets", role, component, facets };
}
