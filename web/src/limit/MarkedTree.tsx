// The tree with a mark for each action: how far the role or account reaches at every node.
import { useMemo, useState } from "react";
import { colourOf } from "../cloth/colours";
import { extentOf, Mark } from "../cloth/Mark";
import type { TreeName } from "../shared/tree/nodes";
import { Tree } from "../shared/tree/Tree";
import { rowsOf, shapeOf, walking } from "../shared/tree/treeRows";
import { type LazyTree, useTree } from "../shared/tree/useTree";
import { Chip, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { useRoles } from "../shared/useRoles";
import { useActions } from "../shared/useWords";
import { type MarkedRow, markedSource, type TreeMark, useWithLimits, type Whom } from "./useLimits";

const COLUMNS = "grid grid-cols-[minmax(180px,1fr)_repeat(9,minmax(40px,62px))]";

type TreeProps = { whom: Whom; tree: TreeName; chosen: string; onChoose: (node: string) => void };

export function MarkedTree({ whom, tree: name, chosen, onChoose }: TreeProps) {
  const [onlyLimits, setOnlyLimits] = useState(false);
  const [words, setWords] = useState("");
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
        <Chip on={onlyLimits} onClick={() => setOnlyLimits(!onlyLimits)}>
          Only rows with limits
        </Chip>
      </div>
      {tree.error ? (
        <ErrorNotice error={tree.error} again={tree.again} />
      ) : tree.pending ? (
        <Loading what="the tree" />
      ) : tree.rows.length > 0 ? (
        <Grid tree={tree} whom={whom} chosen={chosen} onChoose={onChoose} />
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
  chosen: string;
  onChoose: (node: string) => void;
};

function Grid({ tree, whom, chosen, onChoose }: GridProps) {
  const actions = useActions();
  const role = useRoles().data?.find((r) => r.key === whom.role);
  return (
    <Tree
      tree={tree}
      label={`What ${role?.name ?? "the account"} may do where`}
      cursor={chosen}
      onGo={({ id }) => onChoose(id)}
      onChoose={({ id }) => onChoose(id)}
      height={35}
      indent={18}
      more={({ id }) => ({
        "aria-selected": id === chosen,
        className: `${COLUMNS} items-center border-b border-l-[3px] border-b-linen2 ${
          id === chosen ? "border-l-brass bg-warm" : "border-l-transparent hover:bg-linen2/60"
        }`,
      })}
      heads={
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
      }
    >
      {({ node }, name) => (
        <>
          <span role="rowheader" className="flex min-w-0 items-center gap-1">
            {name(<span className={`truncate ${node.context ? "text-ink2" : ""}`}>{node.title}</span>)}
            <Badges row={node} />
          </span>
          {node.context && (
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
        </>
      )}
    </Tree>
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
