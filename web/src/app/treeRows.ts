// A tree as flat rows: what is open, how deep each row lies, and moving through it by keyboard.
import { useMemo, useState } from "react";

type Node = { id: string; parent: string | null };
export type TreeRow<T> = { node: T; depth: number; branch: boolean; open: boolean };

/** Rows of a tree whose nodes come parents first. `opened` says how deep it stands open at first. */
export function useTreeRows<T extends Node>(nodes: T[], opened: number) {
  const [turned, turn] = useState<Map<string, boolean>>(new Map());
  const shape = useMemo(() => {
    const depth = new Map<string, number>();
    const branches = new Set<string>();
    const parents = new Map<string, string | null>();
    for (const node of nodes) {
      parents.set(node.id, node.parent);
      depth.set(node.id, node.parent === null ? 0 : (depth.get(node.parent) ?? -1) + 1);
      if (node.parent) branches.add(node.parent);
    }
    return { depth, branches, parents };
  }, [nodes]);

  const isOpen = (id: string) => turned.get(id) ?? (shape.depth.get(id) ?? 0) < opened;
  const shut = new Set<string>();
  const rows: TreeRow<T>[] = [];
  for (const node of nodes) {
    if (node.parent !== null && shut.has(node.parent)) {
      shut.add(node.id);
      continue;
    }
    const branch = shape.branches.has(node.id);
    const open = branch && isOpen(node.id);
    if (branch && !open) shut.add(node.id);
    rows.push({ node, depth: shape.depth.get(node.id) ?? 0, branch, open });
  }

  function set(id: string, open: boolean) {
    turn((before) => new Map(before).set(id, open));
  }

  /** Open everything above a node, so that it is among the rows. */
  function reveal(id: string) {
    turn((before) => {
      const next = new Map(before);
      for (let up = shape.parents.get(id); up; up = shape.parents.get(up)) next.set(up, true);
      return next;
    });
  }

  /** The row a key leads to, opening and closing branches on the way; null when the key does nothing here. */
  function move(key: string, at: number): number | null {
    const row = rows[at];
    if (!row) return null;
    if (key === "ArrowDown") return Math.min(at + 1, rows.length - 1);
    if (key === "ArrowUp") return Math.max(at - 1, 0);
    if (key === "Home") return 0;
    if (key === "End") return rows.length - 1;
    if (key === "ArrowRight" && row.branch) {
      if (row.open) return at + 1;
      set(row.node.id, true);
      return at;
    }
    if (key === "ArrowLeft") {
      if (row.open) {
        set(row.node.id, false);
        return at;
      }
      return row.node.parent ? rows.findIndex((r) => r.node.id === row.node.parent) : at;
    }
    return null;
  }

  return { rows, set, reveal, move };
}
