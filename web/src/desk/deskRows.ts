// The rows of the desk's tree: pages and ghosts in one order, found by words, and where one is dropped or moved to.
import type { DragEvent } from "react";
import type { GhostRow, TreeNode } from "./useDesk";
import type { Place } from "./usePlaces";

export type Shown = {
  id: string;
  parent: string | null;
  title: string;
  note: string;
  look: "plain" | "context" | "ghost";
};

/** What may be seen, and ghosts of what may not, each under its parent and in one order. */
export function merged(nodes: TreeNode[], ghosts: GhostRow[], words: (reason: string) => string): Shown[] {
  const closed = new Map(ghosts.map((ghost) => [ghost.id, ghost]));
  const shown: Shown[] = nodes.map((node) => {
    const ghost = closed.get(node.id);
    if (node.context) {
      return { ...node, note: ghost ? note(ghost, words) : "", look: ghost ? "ghost" : "context" };
    }
    return { ...node, note: ghost ? note(ghost, words) : stateNote(node.state), look: "plain" };
  });
  const known = new Set(nodes.map((node) => node.id));
  for (const ghost of ghosts) {
    if (!known.has(ghost.id)) shown.push({ ...ghost, note: note(ghost, words), look: "ghost" });
  }
  return inOrder(shown);
}

/** Where a page would be dropped: before another one, or else under it. */
export type Drop = { id: string; before: boolean };

/** The upper third of a row is before it, the rest is under it. */
export function dropOn(event: DragEvent<HTMLElement>, node: Shown): Drop {
  const { top, height } = event.currentTarget.getBoundingClientRect();
  return { id: node.id, before: node.parent !== null && event.clientY - top < height / 3 };
}

/** Where a page stands once it changes places with the sibling before or after it; null where there is none. */
export function beside(nodes: Shown[], id: string, step: -1 | 1): Place | null {
  const parent = nodes.find((node) => node.id === id)?.parent;
  if (!parent) return null;
  const siblings = nodes.filter((node) => node.parent === parent).map((node) => node.id);
  const at = siblings.indexOf(id);
  if (!siblings[at + step]) return null;
  return { before: siblings[step === -1 ? at - 1 : at + 2] ?? null };
}

function note(ghost: GhostRow, words: (reason: string) => string): string {
  const reason = words(ghost.reason);
  // That nobody gave it is the rule, not the exception: only what narrows a grant is worth a word.
  if (ghost.seen) return ghost.reason === "not-granted" ? "" : `edit: ${reason}`;
  return reason;
}

function stateNote(state: string | null): string {
  return state === "review" ? "in review" : state === "published" || state === null ? "" : state;
}

function inOrder(nodes: Shown[]): Shown[] {
  const ids = new Set(nodes.map((node) => node.id));
  const children = new Map<string | null, Shown[]>();
  for (const node of nodes) {
    const parent = node.parent !== null && ids.has(node.parent) ? node.parent : null;
    children.set(parent, [
      ...(children.get(parent) ?? []),
      parent === node.parent ? node : { ...node, parent },
    ]);
  }
  const ordered: Shown[] = [];
  const visit = (parent: string | null) => {
    for (const node of children.get(parent) ?? []) {
      ordered.push(node);
      visit(node.id);
    }
  };
  visit(null);
  return ordered;
}
