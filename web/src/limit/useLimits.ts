// What someone may do where; the limits at one place; all limits; the rules of fields.
import { useQuery } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../api/client";

export type MarkedRow = Shapes["MarkedRowShape"];
export type TreeMark = Shapes["TreeMarkShape"];
export type LimitData = Shapes["LimitShape"];
export type FieldRule = Shapes["FieldRuleShape"];
export type Whom = { role?: string; account?: string };
export type TreeName = "content" | "media";

export function useMarkedTree(whom: Whom, tree: TreeName) {
  return useQuery({
    queryKey: ["marked-tree", whom, tree],
    queryFn: () => answer(api.GET("/api/limits/tree", { params: { query: { ...whom, tree } } })),
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
  return useQuery({ queryKey: ["limits"], queryFn: () => answer(api.GET("/api/limits")) });
}

export function useFieldRules() {
  return useQuery({ queryKey: ["fields"], queryFn: () => answer(api.GET("/api/fields")) });
}

/** Every node by name, for choosing where something holds. */
export function useBranches(tree: TreeName) {
  return useQuery({
    queryKey: ["branches", tree],
    queryFn: () => answer(api.GET("/api/branches", { params: { query: { tree } } })),
  });
}
