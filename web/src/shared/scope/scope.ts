// Where something holds, as it is edited and as it reads.
import type { Given } from "../useAccounts";

/** A missing list does not restrict. */
export type Scope = { sites?: string[]; branches?: string[]; types?: string[]; topics?: string[] };
export type Line = keyof Scope;

export const EMPTY_SCOPE: Scope = {};

/** The scope with one value more or less in a list; an empty list is left out, since it would cover nothing. */
export function withValue(scope: Scope, line: Line, value: string, on: boolean): Scope {
  const { [line]: before = [], ...others } = scope;
  const rest = before.filter((one) => one !== value);
  const next = on ? [...rest, value] : rest;
  return next.length > 0 ? { ...others, [line]: next } : others;
}

export type ScopeNames = Record<Line, (key: string) => string>;

/** "everywhere", or "for berth pages, about tides, on Pier 3 and Summer season". */
export function scopeWords(scope: Scope, names: ScopeNames): string {
  const listed = (line: Line) => (scope[line] ?? []).map(names[line]).join(" and ");
  const parts: string[] = [];
  if (scope.types?.length) parts.push(`for ${listed("types")}`);
  if (scope.topics?.length) parts.push(`${parts.length ? "" : "for pages "}about ${listed("topics")}`);
  if (scope.branches?.length) parts.push(`on ${listed("branches")} and what is beneath`);
  if (scope.sites?.length) parts.push(`on the site ${listed("sites")}`);
  return parts.join(", ") || "everywhere";
}

/** Where something given holds, with the names that came with it. */
export function givenWords(given: Pick<Given, "scope" | "branches">, names: ScopeNames): string {
  const titles = new Map(given.branches.map(({ id, title }) => [id ?? "", title]));
  if (given.scope.branches && given.branches.length === 0) return "nowhere, as no branch is named";
  const hidden = given.branches.some(({ id }) => id === null);
  const branches = [...(given.scope.branches ?? []), ...(hidden ? [""] : [])];
  const scope: Scope = { ...given.scope, ...(given.scope.branches ? { branches } : {}) };
  return scopeWords(scope, { ...names, branches: (key) => titles.get(key) ?? key });
}
