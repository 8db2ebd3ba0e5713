// The names of sites, branches, kinds and topics, for telling where something holds.

import { useTitles } from "../tree/nodes";
import { useSites, useTopics } from "../useAccounts";
import { useCatalogue } from "../useRoles";
import type { ScopeNames } from "./scope";

/** Names of everything but branches, which come with what is given. */
export function useGivenNames(): ScopeNames {
  const sites = new Map(useSites().data?.map(({ key, name }) => [key, name]));
  const topics = new Map(useTopics().data?.map(({ key, name }) => [key, name]));
  const types = new Map(useCatalogue().data?.types.map(({ key, plural }) => [key, plural]));
  return {
    sites: (key) => sites.get(key) ?? key,
    topics: (key) => topics.get(key) ?? key,
    types: (key) => types.get(key) ?? key,
    branches: (key) => key,
  };
}

/** The same with the names of some branches, while a scope is edited. */
export function useScopeNames(branches: string[]): ScopeNames {
  const names = useGivenNames();
  const titles = useTitles(branches);
  return { ...names, branches: (key) => titles.get(key) ?? "a page out of sight" };
}
