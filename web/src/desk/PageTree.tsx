// The tree itself: opened and walked through by keys; pages in it are opened, chosen, dragged and put elsewhere.
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { useLooksOnly } from "../shared/session";
import { Tree } from "../shared/tree/Tree";
import type { LazyTree } from "../shared/tree/useTree";
import { ErrorNotice } from "../shared/ui";
import { useReasonWords } from "../shared/useWords";
import { beside, type DeskNode, type Drop, dropOn, lookOf, noteOn } from "./deskRows";
import { useMove } from "./usePlaces";

type TreeProps = {
  tree: LazyTree<DeskNode>;
  chosen: string;
  marked: string[];
  onMark: (id: string) => void;
};

export function PageTree({ tree, chosen, marked, onMark }: TreeProps) {
  const put = useMove();
  const dragged = useRef<string | null>(null);
  const [over, hover] = useState<Drop | null>(null);
  const navigate = useNavigate();
  const looks = useLooksOnly();
  const reasons = useReasonWords();
  const plain = (node: DeskNode) => lookOf(node) === "plain";

  function moving(node: DeskNode) {
    return {
      draggable: !looks && plain(node) && node.parent !== null,
      onDragStart: () => {
        dragged.current = node.id;
      },
      onDragEnd: () => {
        dragged.current = null;
        hover(null);
      },
      onDragOver: (event: React.DragEvent<HTMLDivElement>) => {
        if (!dragged.current || dragged.current === node.id || !plain(node)) return;
        event.preventDefault();
        hover(dropOn(event, node));
      },
      onDrop: (event: React.DragEvent<HTMLDivElement>) => {
        event.preventDefault();
        if (!dragged.current || dragged.current === node.id) return;
        const { before } = dropOn(event, node);
        const place = before ? { to: node.parent ?? "", before: node.id } : { to: node.id, before: null };
        put.mutate({ node: dragged.current, ...place });
      },
    };
  }

  function look(node: DeskNode): string {
    const dropped = over?.id === node.id ? (over.before ? "border-t-2 border-brass" : "bg-warm") : "";
    const kind = { plain: "", ghost: "hatched text-ink2", context: "text-ink2 italic" }[lookOf(node)];
    return `flex items-center gap-1 rounded-[4px] pr-2 text-read ${dropped} ${kind} ${node.id === chosen ? "bg-paper font-semibold" : "hover:bg-linen"}`;
  }

  return (
    <>
      <ErrorNotice error={put.error} />
      <p role="status" className="sr-only">
        {put.isSuccess ? `${put.data.title} was moved.` : ""}
      </p>
      <Tree
        tree={tree}
        label={looks ? "What this account may see" : "What you may see"}
        cursor={chosen}
        className="px-2 pb-6"
        height={26}
        indent={13}
        onChoose={(node, event) => {
          const several = event.type === "click" && (event.ctrlKey || event.metaKey);
          if (several && plain(node) && !looks) onMark(node.id);
          else if (lookOf(node) !== "context") navigate(`/desk/${node.id}${window.location.search}`);
        }}
        onKey={(event, node) => {
          if (looks || !plain(node)) return false;
          if (event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
            const nodes = tree.rows.map((row) => row.node);
            const place = beside(nodes, node.id, event.key === "ArrowUp" ? -1 : 1);
            if (place) put.mutate({ node: node.id, ...place });
            return true;
          }
          if (event.key === " ") onMark(node.id);
          return event.key === " ";
        }}
        more={(node) => ({
          "aria-selected": node.id === chosen,
          "aria-checked": marked.includes(node.id),
          "data-look": lookOf(node),
          className: look(node),
          ...moving(node),
        })}
      >
        {({ node }, name) => (
          <>
            {name(
              <span className="min-w-0 flex-1 truncate" title={node.title}>
                {node.title}
              </span>,
            )}
            {marked.includes(node.id) && <span className="shrink-0 text-tiny font-semibold">chosen</span>}
            {noteOn(node, reasons) && (
              <span className="shrink-0 text-tiny font-normal text-ink2 not-italic">
                {noteOn(node, reasons)}
              </span>
            )}
          </>
        )}
      </Tree>
    </>
  );
}
