// A tree of any size, fetched as it is opened: the children of what stands open, and the way to what is to be shown.
import { useQueries, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { ProblemError } from "../../api/client";
import { keys } from "../keys";
import { queryClient } from "../query";
import { useSettled } from "../useSettled";
import { rowsOf, shapeOf, type TreeRow, walking } from "./treeRows";

export type Listed = { id: string; parent: string | null; title: string; branch: boolean };

export type Source<T extends Listed> = {
  /** Begins the keys of all that is fetched of it. */
  key: readonly unknown[];
  top: () => Promise<T[]>;
  children: (node: string) => Promise<T[]>;
  /** Everything listed once all above a node stands open. */
  way: (node: string) => Promise<T[]>;
  /** What is found by words, with all that is above each. */
  found: (words: string) => Promise<T[]>;
};

type Options = {
  /** A node that is to be among the rows. */
  reveal?: string;
  /** Only what is found by them is shown. */
  words?: string;
};

export type LazyTree<T> = {
  rows: TreeRow<T>[];
  pending: boolean;
  error: unknown;
  again: () => void;
  set: (id: string, open: boolean) => void;
  /** The row a key leads to, opening and closing branches on the way; null when the key does nothing here. */
  move: (key: string, at: number) => number | null;
};

const TOP = "";
/** So many at the top stand open at first. */
const MOST_OPEN = 4;

export function useTree<T extends Listed>(source: Source<T>, options: Options = {}): LazyTree<T> {
  const { reveal = "", words = "" } = options;
  const [turned, turn] = useState<Map<string, boolean>>(new Map());
  const found = useFoundRows(source, words, turned);
  const keyOf = (parent: string) => [...source.key, "children", parent];
  const walked = walk(
    (parent) => queryClient.getQueryData<T[]>(keyOf(parent)),
    (id, depth, among) => turned.get(id) ?? (depth === 0 && among <= MOST_OPEN),
  );
  const { wanted, shut } = useRevealed(reveal, walked.rows);
  const way = useWay(source, found ? "" : wanted, turn);
  const fetched = useQueries({
    queries: walked.parents.map((parent) => ({
      queryKey: keyOf(parent),
      queryFn: () => (parent === TOP ? source.top() : source.children(parent)),
      enabled: !way.isLoading,
      // What is walked is read from what is kept, not from here: without this its coming would not be noticed.
      notifyOnChangeProps: ["data", "error", "isPending"] as const,
      retry: false,
    })),
  });
  const rows = found?.rows ?? walked.rows;
  const set = (id: string, open: boolean) => {
    if (!open) shut();
    turn((before) => new Map(before).set(id, open));
  };
  return {
    rows,
    set,
    pending: found ? found.pending : rows.length === 0 && fetched.some(({ isPending }) => isPending),
    error: found ? found.error : fetched.find(({ error }) => error && !isGone(error))?.error,
    again: () => queryClient.invalidateQueries({ queryKey: source.key }),
    move: walking(rows, set),
  };
}

/** Of a node that went meanwhile nothing is told: what it stood under is asked anew soon enough. */
function isGone(error: unknown): boolean {
  return error instanceof ProblemError && error.problem.status === 404;
}

/** What words found, everything of it open at first; null where nothing is looked for. */
function useFoundRows<T extends Listed>(source: Source<T>, words: string, turned: Map<string, boolean>) {
  const asked = useSettled(words.trim());
  const found = useQuery({
    queryKey: [...source.key, "found", asked],
    queryFn: () => source.found(asked),
    placeholderData: (before) => before,
    enabled: asked !== "",
  });
  const nodes = found.data;
  const rows = useMemo(
    () => (nodes ? rowsOf(nodes, shapeOf(nodes), (id) => turned.get(id) ?? true) : []),
    [nodes, turned],
  );
  return words.trim() ? { rows, pending: !found.data && !found.error, error: found.error } : null;
}

/** The node whose way is to be opened: one that is not among the rows, unless somebody shut what is above it. */
function useRevealed<T extends Listed>(node: string, rows: TreeRow<T>[]) {
  const shutAbove = useRef("");
  const there = rows.some(({ node: { id } }) => id === node);
  if (there) shutAbove.current = "";
  return {
    wanted: there || shutAbove.current === node ? "" : node,
    shut: () => {
      if (there) shutAbove.current = node;
    },
  };
}

/** Keeps what stands on the way to a node as the children of each above it, and opens those. */
function useWay<T extends Listed>(
  source: Source<T>,
  node: string,
  turn: (change: (before: Map<string, boolean>) => Map<string, boolean>) => void,
) {
  const way = useQuery({
    queryKey: [...keys.ways, ...source.key, node],
    queryFn: async () => {
      const listed = await source.way(node);
      for (const [parent, children] of byParent(listed))
        queryClient.setQueryData([...source.key, "children", parent], children);
      return aboveOf(listed, node);
    },
    enabled: node !== "",
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const above = way.data;
  useEffect(() => {
    if (above) turn((before) => new Map([...before, ...above.map((id) => [id, true] as const)]));
  }, [above, turn]);
  return way;
}

function byParent<T extends Listed>(nodes: T[]): Map<string, T[]> {
  const children = new Map<string, T[]>();
  for (const node of nodes) {
    const parent = node.parent ?? TOP;
    children.set(parent, [...(children.get(parent) ?? []), node]);
  }
  return children;
}

function aboveOf<T extends Listed>(nodes: T[], id: string): string[] {
  const parents = new Map(nodes.map((node) => [node.id, node.parent]));
  const above: string[] = [];
  for (let up = parents.get(id); up; up = parents.get(up)) above.push(up);
  return above;
}

/** The rows of all that stands open, as far as it is known, and the parents whose children are needed for them. */
export function walk<T extends Listed>(
  known: (parent: string) => T[] | undefined,
  /** `among` is how many it stands among. */
  isOpen: (id: string, depth: number, among: number) => boolean,
): { rows: TreeRow<T>[]; parents: string[] } {
  const rows: TreeRow<T>[] = [];
  const parents: string[] = [];
  function visit(parent: string, depth: number) {
    parents.push(parent);
    const listed = known(parent) ?? [];
    for (const node of listed) {
      const open = node.branch && isOpen(node.id, depth, listed.length);
      rows.push({ node, depth, branch: node.branch, open });
      if (open) visit(node.id, depth + 1);
    }
  }
  visit(TOP, 0);
  return { rows, parents };
}
