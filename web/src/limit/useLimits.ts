// What someone may do where; the limits at one place; all limits; the rules of fields.
import { useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";

export type MarkedRow = Shapes["MarkedRowShape"];
export type TreeMark = Shapes["TreeMarkShape"];
export type LimitData = Shapes["LimitShape"];
export type FieldRule = Shapes["FieldRuleShape"];
export type Whom = { role?: string; account?: string };
export type TreeName = "content" | "media";

/** The actions of a marked row, in the order of its marks. */
export const ACTIONS = ["see", "create", "edit", "publish", "retire", "remove", "move", "history", "restore"];

/** Those that are asked of a page that is there. */
export const ON_A_PAGE = ACTIONS.filter((action) => action !== "create");

export function useMarkedTree(whom: Whom, tree: TreeName) {
  return useQuery({
    queryKey: ["marked-tree", whom, tree],
    queryFn: () =>
      everyPage((offset) => api.GET("/api/limits/tree", { params: { query: { ...whom, tree, offset } } })),
    enabled: Boolean(whom.role || whom.account),
    placeholderData: (before) => before,
  });
}

export function usePlace(node: string) {
  return useQuery({
    queryKey: ["place", node],
    queryFn: () => answer(api.GET("/api/limits/places/{node}", { params: { path: { node } } })),
    enabled: node !== "",
  });
}

export function useLimits() {
  return useQuery({
    queryKey: ["limits"],
    queryFn: () => everyPage((offset) => api.GET("/api/limits", { params: { query: { offset } } })),
  });
}

export function useFieldRules() {
  return useQuery({
    queryKey: ["fields"],
    queryFn: () => everyPage((offset) => api.GET("/api/fields", { params: { query: { offset } } })),
  });
}

/** Every node by name, for choosing where something holds. */
export function useBranches(tree: TreeName) {
  return useQuery({
    queryKey: ["branches", tree],
    queryFn: () => everyPage((offset) => api.GET("/api/branches", { params: { query: { tree, offset } } })),
  });
}
