// The rows of the tree themselves: opened and walked through by keys, chosen, dragged and put elsewhere.
import { useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { useSession } from "../shared/session";
import { useTreeRows } from "../shared/treeRows";
import { ErrorNotice } from "../shared/ui";
import { beside, type Drop, dropOn, type Shown } from "./deskRows";
import { useMove } from "./usePlaces";

type RowsProps = {
  nodes: Shown[];
  chosen: string;
  opened: number;
  marked: string[];
  onMark: (id: string) => void;
};

export function TreeRows({ nodes, chosen, opened, marked, onMark }: RowsProps) {
  const { rows, set, reveal, move } = useTreeRows(nodes, opened);
  const put = useMove();
  const dragged = useRef<string | null>(null);
  const [over, hover] = useState<Drop | null>(null);
  const navigate = useNavigate();
  const list = useRef<HTMLDivElement>(null);
  const standing = useSession().data?.standing_in;
  const at = rows.findIndex((row) => row.node.id === chosen);

  const openedHere = useRef("");
  const known = useMemo(() => nodes.some(({ id }) => id === chosen), [nodes, chosen]);

  // Only a newly chosen page is revealed, and none opened here: somebody may have closed what is above it meanwhile.
  // biome-ignore lint/correctness/useExhaustiveDependencies: see above
  useEffect(() => {
    if (chosen && chosen !== openedHere.current) reveal(chosen);
  }, [chosen, known]);

  useEffect(() => {
    if (at >= 0) list.current?.querySelector(`[data-node="${chosen}"]`)?.scrollIntoView({ block: "nearest" });
  }, [at, chosen]);

  function open(index: number) {
    const row = rows[index];
    if (!row) return;
    openedHere.current = row.node.id;
    if (row.node.look !== "context") navigate(`/desk/${row.node.id}${window.location.search}`);
    list.current?.querySelector<HTMLElement>(`[data-node="${row.node.id}"]`)?.focus();
  }

  return (
    <>
      <ErrorNotice error={put.error} />
      <p role="status" className="sr-only">
        {put.isSuccess ? `${put.data.title} was moved.` : ""}
      </p>
      <div
        ref={list}
        role="tree"
        aria-label={standing ? "What this account may see" : "What you may see"}
        className="min-h-0 flex-1 overflow-y-auto px-2 pb-6"
        onKeyDown={(event) => {
          if (event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
            event.preventDefault();
            const id = (document.activeElement as HTMLElement)?.dataset.node ?? "";
            const place = beside(nodes, id, event.key === "ArrowUp" ? -1 : 1);
            if (place && !standing) put.mutate({ node: id, ...place });
            return;
          }
          const now = rows.findIndex(
            (row) => row.node.id === (document.activeElement as HTMLElement)?.dataset.node,
          );
          const next = move(event.key, Math.max(now, 0));
          if (next !== null) {
            event.preventDefault();
            list.current?.querySelector<HTMLElement>(`[data-node="${rows[next]?.node.id}"]`)?.focus();
          } else if (event.key === "Enter") open(now);
          else if (event.key === " " && rows[now]?.node.look === "plain" && !standing) {
            event.preventDefault();
            onMark(rows[now].node.id);
          }
        }}
      >
        {rows.map(({ node, depth, branch, open: isOpen }, index) => (
          <div
            key={node.id}
            role="treeitem"
            aria-level={depth + 1}
            aria-expanded={branch ? isOpen : undefined}
            aria-selected={node.id === chosen}
            aria-checked={marked.includes(node.id)}
            tabIndex={node.id === chosen || (at < 0 && index === 0) ? 0 : -1}
            data-node={node.id}
            data-look={node.look}
            onClick={(event) => {
              if ((event.ctrlKey || event.metaKey) && node.look === "plain" && !standing) onMark(node.id);
              else open(index);
            }}
            draggable={!standing && node.look === "plain" && node.parent !== null}
            onDragStart={() => {
              dragged.current = node.id;
            }}
            onDragEnd={() => {
              dragged.current = null;
              hover(null);
            }}
            onDragOver={(event) => {
              if (!dragged.current || dragged.current === node.id || node.look !== "plain") return;
              event.preventDefault();
              hover(dropOn(event, node));
            }}
            onDrop={(event) => {
              event.preventDefault();
              if (!dragged.current || dragged.current === node.id) return;
              const { before } = dropOn(event, node);
              const place = before
                ? { to: node.parent ?? "", before: node.id }
                : { to: node.id, before: null };
              put.mutate({ node: dragged.current, ...place });
            }}
            style={{ paddingLeft: 4 + depth * 13 }}
            className={`${over?.id === node.id ? (over.before ? "border-t-2 border-brass" : "bg-warm") : ""} flex min-h-[26px] cursor-pointer items-center gap-1 rounded-[4px] pr-2 text-read -outline-offset-2 ${
              node.id === chosen ? "bg-paper font-semibold" : "hover:bg-linen"
            } ${node.look === "ghost" ? "hatched text-ink2" : ""} ${node.look === "context" ? "text-ink2 italic" : ""}`}
          >
            <button
              type="button"
              tabIndex={-1}
              aria-hidden="true"
              className={`w-3.5 shrink-0 text-nano text-ink3 ${branch ? "" : "invisible"}`}
              onClick={(event) => {
                event.stopPropagation();
                set(node.id, !isOpen);
              }}
            >
              {isOpen ? "▼" : "▶"}
            </button>
            <span className="min-w-0 flex-1 truncate" title={node.title}>
              {node.title}
            </span>
            {marked.includes(node.id) && <span className="shrink-0 text-tiny font-semibold">chosen</span>}
            {node.note && (
              <span className="shrink-0 text-tiny font-normal text-ink2 not-italic">{node.note}</span>
            )}
          </div>
        ))}
      </div>
    </>
  );
}
