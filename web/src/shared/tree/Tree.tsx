// A tree on screen, of any size: only the rows in view are drawn; keys walk through it, open and close.
import { useVirtualizer } from "@tanstack/react-virtual";
import {
  type HTMLAttributes,
  type KeyboardEvent,
  type MouseEvent,
  type ReactNode,
  useEffect,
  useRef,
} from "react";
import type { TreeRow } from "./treeRows";
import type { LazyTree, Listed } from "./useTree";

type TreeProps<T extends Listed> = {
  tree: LazyTree<T>;
  label: string;
  /** The row that Tab comes to; it is scrolled to when it changes. */
  cursor: string;
  /** An arrow led to a row. */
  onGo?: (node: T) => void;
  /** A row was clicked, or Enter pressed on it. */
  onChoose: (node: T, event: MouseEvent | KeyboardEvent) => void;
  /** Other keys; true for one that did something. */
  onKey?: (event: KeyboardEvent, node: T) => boolean;
  height: number;
  indent: number;
  /** What else its rows have: a look, handlers. */
  more: (node: T) => HTMLAttributes<HTMLDivElement> & { [data: `data-${string}`]: string };
  /** With more columns than the name it is a grid, under these heads. */
  heads?: ReactNode;
  several?: boolean;
  className?: string;
  /** What stands in a row; `name` begins with how to open it. */
  children: (row: TreeRow<T>, name: (title: ReactNode) => ReactNode) => ReactNode;
};

const FRAMES = 8;

export function Tree<T extends Listed>(props: TreeProps<T>) {
  const { tree, label, cursor, onGo, onChoose, onKey, height, heads, several, className = "" } = props;
  const { rows } = tree;
  const box = useRef<HTMLDivElement>(null);
  /** The row that keys led to and that has not got the focus yet: the next key goes on from there. */
  const going = useRef<string | null>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => height,
    overscan: 20,
  });
  const at = rows.findIndex(({ node }) => node.id === cursor);

  // biome-ignore lint/correctness/useExhaustiveDependencies: only once it is among the rows
  useEffect(() => {
    if (at >= 0) virtual.scrollToIndex(at);
  }, [at >= 0, cursor]);

  function focus(id: string) {
    const index = rows.findIndex(({ node }) => node.id === id);
    if (index >= 0) virtual.scrollToIndex(index);
    going.current = id;
    arrive(id, FRAMES);
  }

  /** A row far away is drawn some frames after it was scrolled to. */
  function arrive(id: string, frames: number) {
    requestAnimationFrame(() => {
      if (going.current !== id) return;
      const row = box.current?.querySelector<HTMLElement>(`[data-node="${id}"]`);
      if (!row && frames > 0) return arrive(id, frames - 1);
      row?.focus();
      going.current = null;
    });
  }

  function pressed(event: KeyboardEvent) {
    const id =
      going.current ?? (event.target as HTMLElement).closest<HTMLElement>("[data-node]")?.dataset.node;
    const index = rows.findIndex(({ node }) => node.id === id);
    const row = rows[index];
    if (!row) return;
    if (onKey?.(event, row.node)) return event.preventDefault();
    if (event.key === "Enter") return onChoose(row.node, event);
    if (event.altKey || event.ctrlKey || event.metaKey) return;
    const next = tree.move(event.key, index);
    const to = next === null ? undefined : rows[next];
    if (!to) return;
    event.preventDefault();
    onGo?.(to.node);
    focus(to.node.id);
  }

  const drawn = virtual.getVirtualItems().map(({ index, start }) => {
    const row = rows[index];
    return row ? (
      <Row
        key={row.node.id}
        {...props}
        row={row}
        index={index}
        start={start}
        tabbed={index === Math.max(at, 0)}
        onChosen={(event) => {
          onChoose(row.node, event);
          focus(row.node.id);
        }}
      />
    ) : null;
  });
  const size = { height: virtual.getTotalSize(), position: "relative" } as const;
  if (!heads)
    return (
      <div ref={box} className={`min-h-0 flex-1 overflow-y-auto ${className}`}>
        <div role="tree" aria-label={label} aria-multiselectable={several} style={size} onKeyDown={pressed}>
          {drawn}
        </div>
      </div>
    );
  return (
    <div
      role="treegrid"
      aria-label={label}
      aria-rowcount={rows.length + 1}
      className={`flex min-h-0 flex-1 flex-col ${className}`}
      onKeyDown={pressed}
    >
      {heads}
      <div ref={box} className="min-h-0 flex-1 overflow-y-auto">
        <div role="rowgroup" style={size}>
          {drawn}
        </div>
      </div>
    </div>
  );
}

type RowProps<T extends Listed> = TreeProps<T> & {
  row: TreeRow<T>;
  index: number;
  start: number;
  tabbed: boolean;
  onChosen: (event: MouseEvent) => void;
};

function Row<T extends Listed>(props: RowProps<T>) {
  const { tree, row, index, start, tabbed, height, indent, heads, more, onChosen, children } = props;
  const { node, depth, branch, open } = row;
  const { className = "", style, ...attributes } = more(node);
  const name = (title: ReactNode) => (
    <>
      <button
        type="button"
        tabIndex={-1}
        aria-hidden="true"
        style={{ marginLeft: depth * indent }}
        className={`w-4 shrink-0 text-micro text-ink3 ${branch ? "" : "invisible"}`}
        onClick={(event) => {
          event.stopPropagation();
          tree.set(node.id, !open);
        }}
      >
        {open ? "▼" : "▶"}
      </button>
      {title}
    </>
  );
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: it is a row of a tree, or of a grid that is one
    // biome-ignore lint/a11y/useAriaPropsSupportedByRole: only the row of a grid has an index
    <div
      role={heads ? "row" : "treeitem"}
      aria-rowindex={heads ? index + 2 : undefined}
      aria-level={depth + 1}
      aria-expanded={branch ? open : undefined}
      tabIndex={tabbed ? 0 : -1}
      data-node={node.id}
      onClick={onChosen}
      {...attributes}
      style={{ ...style, top: start, height }}
      className={`absolute inset-x-0 cursor-pointer -outline-offset-2 ${className}`}
    >
      {children(row, name)}
    </div>
  );
}
