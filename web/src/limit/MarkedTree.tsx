// The tree with a mark for each action: how far the role or account reaches at every node.
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";
import { colourOf } from "../cloth/colours";
import { extentOf, Mark } from "../cloth/Mark";
import { useTreeRows } from "../shared/treeRows";
import { Chip, Empty, ErrorNotice, Loading } from "../shared/ui";
import type { TreeName } from "../shared/useBranches";
import { useRoles } from "../shared/useRoles";
import { useActions } from "../shared/useWords";
import { type MarkedRow, type TreeMark, useMarkedTree, type Whom } from "./useLimits";

const ROW = 35;
const COLUMNS = "grid grid-cols-[minmax(180px,1fr)_repeat(9,minmax(40px,62px))]";

type TreeProps = { whom: Whom; tree: TreeName; chosen: string; onChoose: (node: string) => void };

export function MarkedTree({ whom, tree, chosen, onChoose }: TreeProps) {
  const marked = useMarkedTree(whom, tree);
  const [onlyLimits, setOnlyLimits] = useState(false);
  if (marked.error) return <ErrorNotice error={marked.error} again={marked.refetch} />;
  if (!marked.data) return <Loading what="the tree" />;
  const rows = onlyLimits ? withLimits(marked.data) : marked.data;
  return (
    <>
      <div className="flex justify-end pt-2">
        <Chip on={onlyLimits} onClick={() => setOnlyLimits(!onlyLimits)}>
          Only rows with limits
        </Chip>
      </div>
      {rows.length === 0 ? (
        <Empty title="No limits in this tree">Choose a row, then add one on the right.</Empty>
      ) : (
        <Grid key={String(onlyLimits)} rows={rows} whom={whom} chosen={chosen} onChoose={onChoose} />
      )}
    </>
  );
}

/** Rows that carry limits, with what is above them for context. */
function withLimits(rows: MarkedRow[]): MarkedRow[] {
  const byId = new Map(rows.map((row) => [row.id, row]));
  const kept = new Set<string>();
  for (const row of rows) {
    if (row.limits + row.lifts === 0) continue;
    for (let up: MarkedRow | undefined = row; up && !kept.has(up.id); up = byId.get(up.parent ?? ""))
      kept.add(up.id);
  }
  return rows.filter((row) => kept.has(row.id));
}

type GridProps = {
  rows: MarkedRow[];
  whom: Whom;
  chosen: string;
  onChoose: (node: string) => void;
};

function Grid({ rows: all, whom, chosen, onChoose }: GridProps) {
  const { rows, set, reveal, move } = useTreeRows(all, 1);
  const actions = useActions();
  const role = useRoles().data?.find((r) => r.key === whom.role);
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const at = rows.findIndex((row) => row.node.id === chosen);

  // biome-ignore lint/correctness/useExhaustiveDependencies: only a newly chosen node is revealed
  useEffect(() => {
    if (chosen) reveal(chosen);
  }, [chosen]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: only once it is among the rows
  useEffect(() => {
    if (at >= 0) virtual.scrollToIndex(at);
  }, [at >= 0, chosen]);

  function choose(index: number) {
    const row = rows[index];
    if (!row) return;
    onChoose(row.node.id);
    virtual.scrollToIndex(index);
    requestAnimationFrame(() =>
      box.current?.querySelector<HTMLElement>(`[data-node="${row.node.id}"]`)?.focus(),
    );
  }

  return (
    <div
      role="treegrid"
      aria-label={`What ${role?.name ?? "the account"} may do where`}
      aria-rowcount={rows.length + 1}
      className="flex min-h-0 flex-1 flex-col"
      onKeyDown={(event) => {
        const next = move(event.key, Math.max(at, 0));
        if (next === null) return;
        event.preventDefault();
        choose(next);
      }}
    >
      <div
        role="row"
        aria-rowindex={1}
        className={`${COLUMNS} border-b border-line pt-1 pb-1 text-center text-tiny text-ink2`}
      >
        <span role="columnheader">
          <span className="sr-only">Branch</span>
        </span>
        {actions.map((action) => (
          <span key={action.key} role="columnheader">
            {action.name}
          </span>
        ))}
      </div>
      <div ref={box} className="min-h-0 flex-1 overflow-y-auto">
        <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: "relative" }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const row = rows[index];
            if (!row) return null;
            const { node, depth, branch, open } = row;
            return (
              <div
                key={node.id}
                role="row"
                aria-rowindex={index + 2}
                aria-level={depth + 1}
                aria-expanded={branch ? open : undefined}
                aria-selected={node.id === chosen}
                tabIndex={node.id === chosen || (at < 0 && index === 0) ? 0 : -1}
                data-node={node.id}
                onClick={() => choose(index)}
                style={{ top: start, height: ROW }}
                className={`${COLUMNS} absolute inset-x-0 cursor-pointer items-center border-b border-l-[3px] border-b-linen2 -outline-offset-2 ${
                  node.id === chosen ? "border-l-brass bg-warm" : "border-l-transparent hover:bg-linen2/60"
                }`}
              >
                <span
                  role="rowheader"
                  className="flex min-w-0 items-center gap-1"
                  style={{ paddingLeft: depth * 18 }}
                >
                  <button
                    type="button"
                    tabIndex={-1}
                    aria-hidden="true"
                    className={`w-4 text-micro text-ink3 ${branch ? "" : "invisible"}`}
                    onClick={(event) => {
                      event.stopPropagation();
                      set(node.id, !open);
                    }}
                  >
                    {open ? "▼" : "▶"}
                  </button>
                  <span className={`truncate ${node.type === null ? "text-ink2" : ""}`}>{node.title}</span>
                  <Badges row={node} />
                </span>
                {node.type === null && (
                  <span role="gridcell" className="col-span-9 text-center text-xs text-ink2">
                    known to you by name alone
                  </span>
                )}
                {node.marks.map((mark, j) => (
                  <span key={actions[j]?.key} role="gridcell" className="flex justify-center pt-[2px]">
                    <Mark
                      extent={mark.barred ? "barred" : extentOf(mark.extent)}
                      colour={colourOf(role?.cloth ?? { colour: "ochre", pattern: "plain" })}
                      inherited={mark.baseline && mark.extent > 0}
                      stopped={mark.stopped && !mark.barred}
                      label={told(mark, actions[j]?.name ?? "")}
                    />
                  </span>
                ))}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

const EXTENTS = ["not", "for own", "for their team’s", "all"];

function told(mark: TreeMark, action: string): string {
  if (mark.barred) return `${action}: barred`;
  if (mark.outside) return `${action}: out of reach`;
  return `${action}: ${EXTENTS[mark.extent]}`;
}

function Badges({ row }: { row: MarkedRow }) {
  return (
    <>
      {row.limits > 0 && (
        <span className="ml-1 shrink-0 rounded-[3px] border border-brass bg-warm px-1.5 text-tiny text-[#75531a]">
          {row.limits === 1 ? "1 limit" : `${row.limits} limits`}
        </span>
      )}
      {row.lifts > 0 && (
        <span className="ml-1 shrink-0 rounded-[3px] border border-brass bg-warm px-1.5 text-tiny text-[#75531a]">
          lifted
        </span>
      )}
      {row.staged && <span title="staged" className="ml-1 size-[8px] shrink-0 rounded-full bg-brass" />}
    </>
  );
}
