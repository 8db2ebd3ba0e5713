// A tree as flat rows: what is open, how deep each row lies, and moving through it by keyboard.
import { useMemo, useState } from "react";

type Node = { id: string; parent: string | null };
type Shape = { depth: Map<string, number>; parents: Map<string, string | null>; branches: Set<string> };
export type TreeRow<T> = { node: T; depth: number; branch: boolean; open: boolean };

/** Rows of a tree whose nodes come parents first. `opened` says how deep it stands open at first. */
export function useTreeRows<T extends Node>(nodes: T[], opened: number) {
  const [turned, turn] = useState<Map<string, boolean>>(new Map());
  const shape = useMemo(() => shapeOf(nodes), [nodes]);
  const rows = rowsOf(nodes, shape, (id) => turned.get(id) ?? (shape.depth.get(id) ?? 0) < opened);

  function set(id: string, open: boolean) {
    turn((before) => new Map(before).set(id, open));
  }

  return { rows, set, move: walking(rows, set) };
}

/** Tells the row a key leads to, opening and closing branches on the way; null when the key does nothing here. */
export function walking<T extends Node>(rows: TreeRow<T>[], set: (id: string, open: boolean) => void) {
  return (key: string, at: number): number | null => {
    const step = stepped(rows, key, at);
    if (step?.turns) set(step.turns.id, step.turns.open);
    return step?.to ?? null;
  };
}

export function shapeOf(nodes: Node[]): Shape {
  const shape: Shape = { depth: new Map(), parents: new Map(), branches: new Set() };
  for (const { id, parent } of nodes) {
    shape.parents.set(id, parent);
    shape.depth.set(id, parent === null ? 0 : (shape.depth.get(parent) ?? -1) + 1);
    if (parent) shape.branches.add(parent);
  }
  return shape;
}

/** The nodes that nothing shut lies above. */
export function rowsOf<T extends Node>(
  nodes: T[],
  shape: Shape,
  isOpen: (id: string) => boolean,
): TreeRow<T>[] {
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
  return rows;
}

type Step = { to: number; turns?: { id: string; open: boolean } };

/** Where a key leads from a row, and which branch it opens or closes; null when it does nothing here. */
export function stepped<T extends Node>(rows: TreeRow<T>[], key: string, at: number): Step | null {
  const row = rows[at];
  if (!row) return null;
  const { id, parent } = row.node;
  if (key === "ArrowDown") return { to: Math.min(at + 1, rows.length - 1) };
  if (key === "ArrowUp") return { to: Math.max(at - 1, 0) };
  if (key === "Home") return { to: 0 };
  if (key === "End") return { to: rows.length - 1 };
  if (key === "ArrowRight" && row.branch)
    return row.open
      ? { to: rows[at + 1]?.node.parent === id ? at + 1 : at }
      : { to: at, turns: { id, open: true } };
  if (key === "ArrowLeft" && row.open) return { to: at, turns: { id, open: false } };
  if (key === "ArrowLeft") return { to: parent ? rows.findIndex(({ node }) => node.id === parent) : at };
  return null;
}
