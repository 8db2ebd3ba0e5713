// A tree in which branches are chosen: virtual, searched by part of a name, moved through by keyboard.
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";
import { matching, useTreeRows } from "./treeRows";
import { Chip, INPUT, Loading } from "./ui";
import { type Branch, type TreeName, useBranches } from "./useBranches";

const ROW = 29;

type TreeProps = {
  label: string;
  chosen: string[];
  onChange: (ids: string[]) => void;
  /** One tree alone; without it one can go from one to the other. */
  only?: TreeName;
  height?: number;
};

export function BranchTree({ label, chosen, onChange, only, height = 292 }: TreeProps) {
  const [tree, setTree] = useState<TreeName>(only ?? "content");
  const [words, setWords] = useState("");
  const branches = useBranches(tree);
  const rows = useMemo(() => matching(branches.data ?? [], words), [branches.data, words]);
  return (
    <div>
      <div className="mb-1 flex items-center gap-2">
        <span className="text-sm font-semibold">{label}</span>
        <span className="flex-1" />
        {!only && (
          <>
            <Chip on={tree === "content"} onClick={() => setTree("content")}>
              Pages
            </Chip>
            <Chip on={tree === "media"} onClick={() => setTree("media")}>
              Media
            </Chip>
          </>
        )}
        <input
          aria-label="Part of a branch’s name"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          placeholder="Part of a name"
          className={`${INPUT} w-[170px]!`}
        />
      </div>
      <div className="overflow-hidden rounded border border-line bg-white" style={{ height }}>
        {branches.data ? (
          <Grid
            key={`${tree} ${words !== ""}`}
            all={rows}
            label={label}
            chosen={chosen}
            onChange={onChange}
            open={words ? 99 : 1}
          />
        ) : (
          <Loading what="the tree" />
        )}
      </div>
    </div>
  );
}

type GridProps = {
  all: Branch[];
  label: string;
  chosen: string[];
  onChange: (ids: string[]) => void;
  open: number;
};

function Grid({ all, label, chosen, onChange, open: opened }: GridProps) {
  const { rows, set, reveal, move } = useTreeRows(all, opened);
  const [cursor, setCursor] = useState("");
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 10,
  });
  const at = Math.max(
    rows.findIndex(({ node }) => node.id === cursor),
    0,
  );

  // biome-ignore lint/correctness/useExhaustiveDependencies: what is chosen at first is shown
  useEffect(() => {
    for (const id of chosen) reveal(id);
  }, []);

  function go(index: number) {
    const row = rows[index];
    if (!row) return;
    setCursor(row.node.id);
    virtual.scrollToIndex(index);
    requestAnimationFrame(() =>
      box.current?.querySelector<HTMLElement>(`[data-branch="${row.node.id}"]`)?.focus(),
    );
  }

  function toggle(id: string) {
    onChange(chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id]);
  }

  if (rows.length === 0) return <p className="p-3 text-sm text-ink2">No branch is called that.</p>;
  return (
    <div ref={box} className="h-full overflow-y-auto">
      <div
        role="tree"
        aria-label={label}
        aria-multiselectable="true"
        style={{ height: virtual.getTotalSize(), position: "relative" }}
        onKeyDown={(event) => {
          const row = rows[at];
          if (row && (event.key === " " || event.key === "Enter")) {
            event.preventDefault();
            toggle(row.node.id);
            return;
          }
          const next = move(event.key, at);
          if (next === null) return;
          event.preventDefault();
          go(next);
        }}
      >
        {virtual.getVirtualItems().map(({ index, start }) => {
          const row = rows[index];
          if (!row) return null;
          const { node, depth, branch, open } = row;
          const on = chosen.includes(node.id);
          return (
            <div
              key={node.id}
              role="treeitem"
              aria-level={depth + 1}
              aria-expanded={branch ? open : undefined}
              aria-selected={on}
              tabIndex={index === at ? 0 : -1}
              data-branch={node.id}
              onClick={() => {
                setCursor(node.id);
                toggle(node.id);
              }}
              style={{ top: start, height: ROW, paddingLeft: 8 + depth * 18 }}
              className={`absolute inset-x-0 flex cursor-pointer items-center gap-1.5 border-b border-linen2 pr-2 text-sm -outline-offset-2 ${on ? "bg-warm font-semibold" : "hover:bg-linen"}`}
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
              <span
                aria-hidden="true"
                className={`size-[14px] shrink-0 rounded-[3px] border ${on ? "border-rod bg-rod" : "border-line2 bg-white"}`}
              />
              <span className="min-w-0 flex-1 truncate">{node.title}</span>
              <span className="figures text-xs font-normal text-ink2">{node.nodes}</span>
            </div>
          );
        })}
      </div>
    </div>
  );
}
