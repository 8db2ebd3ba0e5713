// The tree with a mark for each action: how far somebody reaches at every node; its cells are chosen to be set.
import { type CSSProperties, useLayoutEffect, useMemo, useState } from "react";
import { colourOf } from "../cloth/colours";
import { extentOf, Mark } from "../cloth/Mark";
import type { TreeName } from "../shared/tree/nodes";
import { Tree } from "../shared/tree/Tree";
import { rowsOf, shapeOf, walking } from "../shared/tree/treeRows";
import { type LazyTree, useTree } from "../shared/tree/useTree";
import { Chip, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { useCatalogue, useRoleMap } from "../shared/useRoles";
import { useActions } from "../shared/useWords";
import { holds, useCells } from "./useCells";
import { type MarkedRow, markedSource, type TreeMark, useWithLimits, type Whom } from "./useLimits";
import { useWhomName } from "./WhomPicker";

const COLUMNS = "grid grid-cols-[minmax(170px,1fr)_repeat(var(--columns),minmax(34px,58px))]";

/** What is chosen: some nodes, and some of the actions on them. */
export type Cells = {
  nodes: { id: string; title: string }[];
  actions: { key: string; name: string }[];
  /** Whether rows are chosen whole. */
  whole: boolean;
};

type TreeProps = {
  whom: Whom;
  tree: TreeName;
  chosen: string;
  onChoose: (node: string) => void;
  onCells: (cells: Cells) => void;
};

export function MarkedTree({ whom, tree: name, chosen, onChoose, onCells }: TreeProps) {
  const [onlyLimits, setOnlyLimits] = useState(false);
  const [words, setWords] = useState("");
  const [duties, setDuties] = useState(false);
  const all = useTree(markedSource(whom, name), { words, reveal: chosen });
  const limited = useLimited(whom, name, onlyLimits && !words);
  const tree = limited ?? all;
  return (
    <>
      <div className="flex items-center justify-end gap-2 pt-2">
        <input
          aria-label="Part of a title"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          placeholder="Part of a title"
          className={`${INPUT} w-[190px]!`}
        />
        <Chip on={duties} onClick={() => setDuties(!duties)}>
          Duties on pages too
        </Chip>
        <Chip on={onlyLimits} onClick={() => setOnlyLimits(!onlyLimits)}>
          Only rows with limits
        </Chip>
      </div>
      {tree.error ? (
        <ErrorNotice error={tree.error} again={tree.again} />
      ) : tree.pending ? (
        <Loading what="the tree" />
      ) : tree.rows.length > 0 ? (
        <Grid tree={tree} whom={whom} duties={duties} chosen={chosen} onChoose={onChoose} onCells={onCells} />
      ) : words ? (
        <Empty title="Nothing is called that" />
      ) : (
        <Empty title="No limits in this tree">Choose a row, then add one on the right.</Empty>
      )}
    </>
  );
}

/** The rows that carry limits with what is above them, all open at first; null where they are not asked for. */
function useLimited(whom: Whom, name: TreeName, on: boolean): LazyTree<MarkedRow> | null {
  const found = useWithLimits(whom, name, on);
  const [turned, turn] = useState<Map<string, boolean>>(new Map());
  const nodes = found.data;
  const rows = useMemo(
    () => (nodes ? rowsOf(nodes, shapeOf(nodes), (id) => turned.get(id) ?? true) : []),
    [nodes, turned],
  );
  if (!on) return null;
  const set = (id: string, open: boolean) => turn((before) => new Map(before).set(id, open));
  return {
    rows,
    set,
    pending: found.isPending,
    error: found.error,
    again: found.refetch,
    move: walking(rows, set),
  };
}

type GridProps = {
  tree: LazyTree<MarkedRow>;
  whom: Whom;
  /** Whether the duties on pages have columns too. */
  duties: boolean;
  chosen: string;
  onChoose: (node: string) => void;
  onCells: (cells: Cells) => void;
};

function Grid({ tree, whom, duties, chosen, onChoose, onCells }: GridProps) {
  const columns = useColumns(duties);
  const role = useRoleMap().get(whom.roles?.[0] ?? "");
  const name = useWhomName(whom);
  const at = tree.rows.findIndex(({ node }) => node.id === chosen);
  const cells = useCells(columns.length, at);
  const { rows, columns: across } = cells.block;
  const inBlock = at < 0 ? [] : tree.rows.slice(rows[0], rows[1] + 1).filter(({ node }) => !node.context);
  const actions = columns.slice(across[0], across[1] + 1);
  const told = JSON.stringify([inBlock.map(({ node }) => node.id), actions.map(({ key }) => key)]);
  // Before the next key: what it sets is what is chosen by then.
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is chosen, not how it is held
  useLayoutEffect(
    () => onCells({ nodes: inBlock.map(({ node }) => node), actions, whole: cells.column === null }),
    [told, cells.column === null],
  );
  const place = new Map(tree.rows.map(({ node }, row) => [node.id, row]));

  function pick(node: MarkedRow, column: number | null, extend: boolean) {
    cells.click(column, extend);
    onChoose(node.id);
  }

  return (
    <Tree
      tree={tree}
      label={`What ${name} may do where`}
      cursor={chosen}
      several
      onGo={({ id }) => onChoose(id)}
      onChoose={(node, event) => {
        const cell = (event.target as Element).closest<HTMLElement>("[data-column]")?.dataset.column;
        pick(node, cell === undefined ? null : Number(cell), event.shiftKey);
      }}
      onKey={(event, { id }) => {
        const row = tree.rows.find(({ node }) => node.id === id);
        return cells.pressed(event, Boolean(row?.branch && !row.open));
      }}
      height={35}
      indent={16}
      more={({ id }) => ({
        "aria-selected": (place.get(id) ?? -1) >= rows[0] && (place.get(id) ?? -1) <= rows[1] && at >= 0,
        style: { "--columns": columns.length } as CSSProperties,
        className: `${COLUMNS} items-center border-b border-l-[3px] border-b-linen2 ${
          id === chosen ? "border-l-brass bg-warm" : "border-l-transparent hover:bg-linen2/60"
        }`,
      })}
      heads={
        <div
          role="row"
          aria-rowindex={1}
          style={{ "--columns": columns.length } as CSSProperties}
          className={`${COLUMNS} items-end border-b border-l-[3px] border-b-line border-l-transparent pt-1 pb-1 text-center text-tiny text-ink2`}
        >
          <span role="columnheader">
            <span className="sr-only">Branch</span>
          </span>
          {columns.map((action, j) => (
            <span key={action.key} role="columnheader">
              <button
                type="button"
                tabIndex={-1}
                className="w-full leading-tight hyphens-auto hover:underline"
                title={`${action.name}: all rows listed`}
                onClick={() => {
                  const last = tree.rows.at(-1);
                  if (!last) return;
                  cells.wholeColumn(j);
                  onChoose(last.node.id);
                }}
              >
                {action.name}
              </button>
            </span>
          ))}
        </div>
      }
    >
      {({ node }, title) => (
        <>
          <span role="rowheader" className="flex min-w-0 items-center gap-1">
            {title(<span className={`truncate ${node.context ? "text-ink2" : ""}`}>{node.title}</span>)}
            <Badges row={node} />
          </span>
          {node.context && (
            <span role="gridcell" className="col-span-9 text-center text-xs text-ink2">
              known to you by name alone
            </span>
          )}
          {node.marks.slice(0, columns.length).map((mark, j) => {
            const chosenCell = at >= 0 && holds(cells.block, place.get(node.id) ?? -1, j);
            return (
              <span
                key={columns[j]?.key}
                role="gridcell"
                data-column={j}
                aria-selected={chosenCell}
                className={`flex h-full items-center justify-center ${
                  chosenCell && cells.column !== null ? "bg-chosen" : ""
                } ${node.id === chosen && cells.column === j ? "outline-2 -outline-offset-2 outline-rod" : ""}`}
              >
                <Mark
                  extent={mark.barred ? "barred" : extentOf(mark.extent)}
                  colour={colourOf(role?.cloth ?? { colour: "ochre", pattern: "plain" })}
                  inherited={mark.baseline && mark.extent > 0}
                  stopped={mark.stopped && !mark.barred}
                  set={mark.set}
                  label={markWords(mark, columns[j]?.name ?? "")}
                />
              </span>
            );
          })}
        </>
      )}
    </Tree>
  );
}

/** The actions, then the duties on pages, as the rows have marks for them. */
function useColumns(withDuties: boolean): Cells["actions"] {
  const actions = useActions();
  const duties = useCatalogue().data?.duties ?? [];
  const placed = duties
    .filter(({ key, kind }) => kind === "placed" && !key.startsWith("markup."))
    .sort((a, b) => (a.key < b.key ? -1 : 1));
  return withDuties ? [...actions, ...placed] : actions;
}

const EXTENTS = ["not", "for own", "for their team’s", "all"];

const SET: Record<TreeMark["set"], string> = {
  "": "",
  stop: ", a stop is set here",
  bar: ", a bar is set here",
  lift: ", a lift is set here",
};

/** What a mark says of one action. */
export function markWords(mark: TreeMark, action: string): string {
  if (mark.barred) return `${action}: barred${SET[mark.set]}`;
  if (mark.outside) return `${action}: out of reach`;
  return `${action}: ${EXTENTS[mark.extent]}${SET[mark.set]}`;
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
