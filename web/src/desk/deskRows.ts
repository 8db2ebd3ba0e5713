// The rows of the desk's tree: pages and under the X-ray ghosts, each with a look and a note; and where one is moved to.
import type { DragEvent } from "react";
import type { TreeNode } from "../shared/tree/nodes";
import type { GhostRow } from "./useDesk";
import type { Place } from "./usePlaces";

export type Look = "plain" | "context" | "ghost";

/** What is closed to whom one stands in for: by node, and by what each stands under. */
export class Ghosts {
  private readonly of: Map<string, GhostRow>;
  private readonly under: Map<string | null, GhostRow[]>;

  constructor(
    ghosts: GhostRow[],
    private readonly words: (reason: string) => string,
  ) {
    this.of = new Map(ghosts.map((ghost) => [ghost.id, ghost]));
    this.under = new Map();
    for (const ghost of ghosts)
      this.under.set(ghost.parent, [...(this.under.get(ghost.parent) ?? []), ghost]);
  }

  /** What stands under a node: what may be seen, and after it what may not. */
  arrange = (parent: string | null, fetched: TreeNode[]): TreeNode[] => {
    const there = new Set(fetched.map(({ id }) => id));
    const hidden = (this.under.get(parent) ?? []).filter(({ id }) => !there.has(id));
    return [...fetched, ...hidden.map(asNode)].map((node) =>
      this.under.has(node.id) ? { ...node, branch: true } : node,
    );
  };

  look(node: TreeNode): Look {
    if (!node.context) return "plain";
    return this.of.has(node.id) ? "ghost" : "context";
  }

  note(node: TreeNode): string {
    const ghost = this.of.get(node.id);
    if (!ghost) return node.context ? "" : stateNote(node);
    const reason = this.words(ghost.reason);
    // That nobody gave it is the rule, not the exception: only what narrows a grant is worth a word.
    if (ghost.seen) return ghost.reason === "not-granted" ? stateNote(node) : `edit: ${reason}`;
    return reason;
  }
}

function asNode({ id, parent, title }: GhostRow): TreeNode {
  const nothing = { type: null, state: null, site: null, may_edit: false, locked: false, nodes: 0 };
  return { id, parent, title, context: true, branch: false, found: false, ...nothing };
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
