// The rows of the desk's tree: pages and under the X-ray ghosts, each with a look and a note; and where one is moved to.
import type { DragEvent } from "react";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import type { TreeName, TreeNode } from "../shared/tree/nodes";
import type { Source } from "../shared/tree/useTree";
import type { Place } from "./usePlaces";

export type Look = "plain" | "context" | "ghost";

/** A node, and under the X-ray what of it is closed to whom one stands in for. */
export type DeskNode = TreeNode & Partial<Pick<Shapes["XrayRowShape"], "closed">>;

export function xraySource(tree: TreeName): Source<DeskNode> {
  return {
    key: keys.xrayTree(tree),
    top: () => everyPage((offset) => api.GET("/api/xray/children", { params: { query: { tree, offset } } })),
    children: (node) =>
      everyPage((offset) =>
        api.GET("/api/xray/children/{node}", { params: { path: { node }, query: { offset } } }),
      ),
    way: (node) =>
      everyPage((offset) =>
        api.GET("/api/xray/way/{node}", { params: { path: { node }, query: { offset } } }),
      ),
    found: (words) => answer(api.GET("/api/xray/found", { params: { query: { tree, words } } })),
  };
}

export function lookOf({ context, closed }: DeskNode): Look {
  if (closed && !closed.seen) return "ghost";
  return context ? "context" : "plain";
}

/** A few words beside a title; `words` puts a reason into some. */
export function noteOn(node: DeskNode, words: (reason: string) => string): string {
  const { context, closed } = node;
  if (closed && !closed.seen) return words(closed.reason);
  // That nobody gave it is the rule, not the exception: only what narrows a grant is worth a word.
  if (closed && closed.reason !== "not-granted") return `edit: ${words(closed.reason)}`;
  return context ? "" : stateNote(node);
}

function stateNote({ state, locked }: TreeNode): string {
  const told = state === "review" ? "in review" : state === "published" || state === null ? "" : state;
  return [locked && "locked", told].filter(Boolean).join(", ");
}

/** Where a page would be dropped: before another one, or else under it. */
export type Drop = { id: string; before: boolean };

/** The upper third of a row is before it, the rest is under it. */
export function dropOn(event: DragEvent<HTMLElement>, node: TreeNode): Drop {
  const { top, height } = event.currentTarget.getBoundingClientRect();
  return { id: node.id, before: node.parent !== null && event.clientY - top < height / 3 };
}

/** Where a page stands once it changes places with the sibling before or after it; null where there is none. */
export function beside(nodes: TreeNode[], id: string, step: -1 | 1): Place | null {
  const parent = nodes.find((node) => node.id === id)?.parent;
  if (!parent) return null;
  const siblings = nodes.filter((node) => node.parent === parent).map((node) => node.id);
  const at = siblings.indexOf(id);
  if (!siblings[at + step]) return null;
  return { before: siblings[step === -1 ? at - 1 : at + 2] ?? null };
}
