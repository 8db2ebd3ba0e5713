// Pages and media as their tree is opened: what stands under one, the way to one, and what is found by words.
import { useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../../api/client";
import { keys } from "../keys";
import { useSettled } from "../useSettled";
import type { Source } from "./useTree";

export type TreeNode = Shapes["TreeRowShape"];
export type TreeName = "content" | "media";

export function deskSource(tree: TreeName): Source<TreeNode> {
  return {
    key: keys.deskTree(tree),
    top: () => everyPage((offset) => api.GET("/api/desk/children", { params: { query: { tree, offset } } })),
    children: (node) =>
      everyPage((offset) =>
        api.GET("/api/desk/children/{node}", { params: { path: { node }, query: { offset } } }),
      ),
    way: (node) =>
      everyPage((offset) =>
        api.GET("/api/desk/way/{node}", { params: { path: { node }, query: { offset } } }),
      ),
    found: (words) => answer(api.GET("/api/desk/found", { params: { query: { tree, words } } })),
  };
}

export function useChildren(tree: TreeName, node: string) {
  const source = deskSource(tree);
  return useQuery({
    queryKey: [...source.key, "children", node],
    queryFn: () => source.children(node),
    enabled: node !== "",
  });
}

type Among = {
  /** Only those of this type. */
  type?: string;
  /** Only those beneath some nodes. */
  under?: string[];
};

/** The first nodes whose titles hold some words, with what is above them. */
export function useFound(tree: TreeName, words: string, among: Among = {}, on = true) {
  const asked = useSettled(words.trim());
  return useQuery({
    queryKey: [...keys.deskTree(tree), "found", asked, among],
    queryFn: () =>
      answer(api.GET("/api/desk/found", { params: { query: { tree, words: asked, ...among } } })),
    placeholderData: (before) => before,
    enabled: on,
  });
}

/** The titles of some nodes of either tree, by their ids, as far as they are in sight. */
export function useTitles(ids: string[]): Map<string, string> {
  const id = [...new Set(ids)].sort();
  const named = useQuery({
    queryKey: [...keys.deskTrees, "named", id],
    queryFn: () => answer(api.GET("/api/desk/found", { params: { query: { id } } })),
    placeholderData: (before) => before,
    enabled: id.length > 0,
  });
  return new Map(named.data?.map((node) => [node.id, node.title]));
}
