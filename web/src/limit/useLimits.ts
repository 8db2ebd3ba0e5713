// What someone may do where; the limits at one place, and all of them.
import { useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import type { TreeName } from "../shared/tree/nodes";
import type { Source } from "../shared/tree/useTree";

export type MarkedRow = Shapes["MarkedRowShape"];
export type TreeMark = Shapes["TreeMarkShape"];
export type ListedLimit = Shapes["ListedLimitShape"];
export type LimitData = Shapes["LimitShape"];
/** Whom the tree is about: an account, a member of a group, a visitor, or somebody with some roles. */
export type Whom = { account?: string; group?: string; visitor?: boolean; roles?: string[] };

/** What somebody may do where, as its tree is opened. */
export function markedSource(whom: Whom, tree: TreeName): Source<MarkedRow> {
  return {
    key: keys.markedTree(whom, tree),
    top: () =>
      everyPage((offset) =>
        api.GET("/api/limits/children", { params: { query: { ...whom, tree, offset } } }),
      ),
    children: (node) =>
      everyPage((offset) =>
        api.GET("/api/limits/children/{node}", { params: { path: { node }, query: { ...whom, offset } } }),
      ),
    way: (node) =>
      everyPage((offset) =>
        api.GET("/api/limits/way/{node}", { params: { path: { node }, query: { ...whom, offset } } }),
      ),
    found: (words) => answer(api.GET("/api/limits/found", { params: { query: { ...whom, tree, words } } })),
  };
}

/** What stands at the top of a tree. */
export function useRoots(tree: TreeName | null) {
  return useQuery({
    queryKey: keys.markedTree({}, `${tree} roots`),
    queryFn: () =>
      answer(
        api.GET("/api/limits/children", { params: { query: { visitor: true, tree: tree ?? "content" } } }),
      ),
    enabled: tree !== null,
  });
}

/** The nodes that carry limits, with what is above them. */
export function useWithLimits(whom: Whom, tree: TreeName, on: boolean) {
  return useQuery({
    queryKey: [...keys.markedTree(whom, tree), "limits"],
    queryFn: () =>
      everyPage((offset) =>
        api.GET("/api/limits/found", { params: { query: { ...whom, tree, limits: true, offset } } }),
      ),
    enabled: on,
    placeholderData: (before) => before,
  });
}

export function usePlace(node: string) {
  return useQuery({
    queryKey: keys.place(node),
    queryFn: () => answer(api.GET("/api/limits/places/{node}", { params: { path: { node } } })),
    enabled: node !== "",
  });
}

export function useLimits() {
  return useQuery({
    queryKey: keys.limits,
    queryFn: () => everyPage((offset) => api.GET("/api/limits", { params: { query: { offset } } })),
  });
}

/** One limit with what it changes, however much that is to count. */
export function useOneLimit(id: string, enabled: boolean) {
  return useQuery({
    queryKey: keys.limit(id),
    queryFn: async () => (await answer(api.GET("/api/limits", { params: { query: { id } } })))[0] ?? null,
    enabled,
  });
}
