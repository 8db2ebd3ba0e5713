// What someone may do where; the limits at one place; all limits; the rules of fields.
import { useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import type { TreeName } from "../shared/useBranches";

export type MarkedRow = Shapes["MarkedRowShape"];
export type TreeMark = Shapes["TreeMarkShape"];
export type LimitData = Shapes["LimitShape"];
export type FieldRule = Shapes["FieldRuleShape"];
export type Whom = { role?: string; account?: string };

export function useMarkedTree(whom: Whom, tree: TreeName) {
  return useQuery({
    queryKey: keys.markedTree(whom, tree),
    queryFn: () =>
      everyPage((offset) => api.GET("/api/limits/tree", { params: { query: { ...whom, tree, offset } } })),
    enabled: Boolean(whom.role || whom.account),
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

export function useFieldRules() {
  return useQuery({
    queryKey: keys.fields,
    queryFn: () => everyPage((offset) => api.GET("/api/fields", { params: { query: { offset } } })),
  });
}
