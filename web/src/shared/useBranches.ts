// Every node by name, for choosing where something holds.
import { useQuery } from "@tanstack/react-query";
import { api, everyPage, type Shapes } from "../api/client";
import { keys } from "./keys";

export type Branch = Shapes["NamedBranchShape"];
export type TreeName = "content" | "media";

export function useBranches(tree: TreeName) {
  return useQuery({
    queryKey: keys.branches(tree),
    queryFn: () => everyPage((offset) => api.GET("/api/branches", { params: { query: { tree, offset } } })),
  });
}
