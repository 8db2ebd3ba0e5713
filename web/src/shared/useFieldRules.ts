// The rules of fields: who sees and changes each.
import { useQuery } from "@tanstack/react-query";
import { api, everyPage, type Shapes } from "../api/client";
import { keys } from "./keys";

export type FieldRule = Shapes["FieldRuleShape"];

export function useFieldRules(enabled = true) {
  return useQuery({
    queryKey: keys.fields,
    queryFn: () => everyPage((offset) => api.GET("/api/fields", { params: { query: { offset } } })),
    enabled,
  });
}
