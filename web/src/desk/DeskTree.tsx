// The desk's tree: what may be seen, what is above it for context, and under the X-ray what is hidden.
import { type DragEvent, useEffect, useMemo, useRef, useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { useDuty, useSession } from "../shared/session";
import { useTreeRows } from "../shared/treeRows";
import { Button, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import { useReasonWords } from "../shared/useWords";
import { useXray } from "../shared/useXray";
import { NewPage } from "./NewPage";
import { type GhostRow, type TreeName, type TreeNode, useDeskTree, useXrayTree } from "./useDesk";
import { type Place, useMove } from "./usePlaces";

type Shown = {
  id: string;
  parent: string | null;
  title: string;
  note: string;
  look: "plain" | "context" | "ghost";
};

export function DeskTree({ chosen }: { chosen: string }) {
  const [name, setName] = useParam("tree");
  const tree: TreeName = name === "media" ? "media" : "content";
  const media = useDuty("media.open");
  const [xray] = useXray();
  const nodes = useDeskTree(tree);
  const ghosts = useXrayTree(tree, xray);
  const reasons = useReasonWords();
  const [words, setWords] = useState("");
  const [making, setMaking] = useState(false);
  const standing = Boolean(useSession().data?.standing_in);
  const all = useMemo(
    () => (nodes.data ? merged(nodes.data, xray ? (ghosts.data ?? []) : [], reasons) : []),
    [nodes.data, ghosts.data, xray, reasons],
  );
  const shown = useMemo(() => called(all, words), [all, words]);
  return (
    <nav
      aria-label="Pages"
      className="flex w-[244px] shrink-0 flex-col border-r border-line bg-linen2 pt-[14px]"
    >
      <div className="flex gap-2 px-3 pb-2">
        <input
          aria-label="Part of a title"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          placeholder="Part of a title"
          className={INPUT}
        />
        {!standing && (
          <Button look="main" onClick={() => setMaking(true)}>
            New
          </Button>
        )}
      </div>
      <Parts />
      <NewPage open={making} onClose={() => setMaking(false)} tree={tree} at={newAt(nodes.data, chosen)} />
      {media && (
        <div className="flex gap-4 px-[16px] pt-2 pb-2 text-read">
          {(["content", "media"] as const).map((key) => (
            <button
              key={key}
              type="button"
              aria-pressed={tree === key}
              onClick={() => setName(key === "content" ? "" : key)}
              className={
                tree === key
                  ? "border-b-[3px] border-brass font-bold"
                  : "border-b-[3px] border-transparent text-ink2"
              }
            >
              {key === "content" ? "Content" : "Media"}
            </button>
          ))}
        </div>
      )}
      {nodes.error && <ErrorNotice error={nodes.error} again={nodes.refetch} />}
      {nodes.isPending && <Loading what="the tree" />}
      {nodes.data && all.length === 0 && (
        <Empty title="Nothing here">There is nothing in this tree you may see.</Empty>
      )}
      {words && all.length > 0 && shown.length === 0 && <Empty title="Nothing is called that" />}
      {shown.length > 0 && (
        <Rows key={`${tree} ${words !== ""}`} nodes={shown} chosen={chosen} opened={words ? 99 : 2} />
      )}
    </nav>
  );
}

/** The other parts of the desk, above the tree. */
function Parts() {
  const [topics, sites] = [useMayTopics(), useDuty("site.settings")];
  const { pathname } = useLocation();
  const link = (to: string, name: string) => (
    <Link
      to={to}
      aria-current={pathname === to ? "page" : undefined}
      className={`block rounded-[4px] px-2 py-1 text-read ${pathname === to ? "bg-paper font-semibold" : "hover:bg-linen"}`}
    >
      {name}
    </Link>
  );
  return (
    <div className="px-2 pb-1">
      {link("/desk", "Start")}
      {link("/desk/-/bin", "Bin")}
      {topics && link("/desk/-/topics", "Topics")}
      {sites && link("/desk/-/sites", "Sites")}
    </div>
  );
}

function useMayTopics(): boolean {
  const [add, rename, remove] = [useDuty("topics.add"), useDuty("topics.rename"), useDuty("topics.remove")];
  return add || rename || remove;
}

/** Where a new page is to stand at first: under the page that is open, or else under the first one. */
function newAt(nodes: TreeNode[] | undefined, chosen: string): string {
  const seen = nodes?.filter(({ context }) => !context) ?? [];
  return seen.find(({ id }) => id === chosen)?.id ?? seen[0]?.id ?? "";
}

/** The pages whose titles hold some words, with what is above them. */
function called(all: Shown[], words: string): Shown[] {
  const wanted = words.trim().toLowerCase();
  if (!wanted) return all;
  const byId = new Map(all.map((node) => [node.id, node]));
  const kept = new Set<string>();
  for (const node of all) {
    if (!node.title.toLowerCase().includes(wanted)) continue;
    for (let up: Shown | undefined = node; up && !kept.has(up.id); up = byId.get(up.parent ?? ""))
      kept.add(up.id);
  }
  return all.filter(({ id }) => kept.has(id));
}

/** What may be seen, and ghosts of what may not, each under its parent and in one order. */
function merged(nodes: TreeNode[], ghosts: GhostRow[], words: (reason: string) => string): Shown[] {
  const closed = new Map(ghosts.map((ghost) => [ghost.id, ghost]));
  const shown: Shown[] = nodes.map((node) => {
    const ghost = closed.get(node.id);
    if (node.context) {
      return { ...node, note: ghost ? note(ghost, words) : "", look: ghost ? "ghost" : "context" };
    }
    return { ...node, note: ghost ? note(ghost, words) : stateNote(node.state), look: "plain" };
  });
  const known = new Set(nodes.map((node) => node.id));
  for (const ghost of ghosts) {
    if (!known.has(ghost.id)) shown.push({ ...ghost, note: note(ghost, words), look: "ghost" });
  }
  return inOrder(shown);
}

/** Where a page would be dropped: before another one, or else under it. */
type Drop = { id: string; before: boolean };

/** The upper third of a row is before it, the rest is under it. */
function dropOn(event: DragEvent<HTMLElement>, node: Shown): Drop {
  const { top, height } = event.currentTarget.getBoundingClientRect();
  return { id: node.id, before: node.parent !== null && event.clientY - top < height / 3 };
}

/** Where a page stands once it changes places with the sibling before or after it; null where there is none. */
function beside(nodes: Shown[], id: string, step: -1 | 1): Place | null {
  const parent = nodes.find((node) => node.id === id)?.parent;
  if (!parent) return null;
  const siblings = nodes.filter((node) => node.parent === parent).map((node) => node.id);
  const at = siblings.indexOf(id);
  if (!siblings[at + step]) return null;
  return { before: siblings[step === -1 ? at - 1 : at + 2] ?? null };
}

function note(ghost: GhostRow, words: (reason: string) => string): string {
  const reason = words(ghost.reason);
  // That nobody gave it is the rule, not the exception: only what narrows a grant is worth a word.
  if (ghost.seen) return ghost.reason === "not-granted" ? "" : `edit: ${reason}`;
  return reason;
}

function stateNote(state: string | null): string {
  return state === "review" ? "in review" : state === "published" || state === null ? "" : state;
}

function inOrder(nodes: Shown[]): Shown[] {
  const ids = new Set(nodes.map((node) => node.id));
  const children = new Map<string | null, Shown[]>();
  for (const node of nodes) {
    const parent = node.parent !== null && ids.has(node.parent) ? node.parent : null;
    children.set(parent, [
      ...(children.get(parent) ?? []),
      parent === node.parent ? node : { ...node, parent },
    ]);
  }
  const ordered: Shown[] = [];
  const visit = (parent: string | null) => {
    for (const node of children.get(parent) ?? []) {
      ordered.push(node);
      visit(node.id);
    }
  };
  visit(null);
  return ordered;
}

function Rows({ nodes, chosen, opened }: { nodes: Shown[]; chosen: string; opened: number }) {
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
        }}
      >
        {rows.map(({ node, depth, branch, open: isOpen }, index) => (
          <div
            key={node.id}
            role="treeitem"
            aria-level={depth + 1}
            aria-expanded={branch ? isOpen : undefined}
            aria-selected={node.id === chosen}
            tabIndex={node.id === chosen || (at < 0 && index === 0) ? 0 : -1}
            data-node={node.id}
            data-look={node.look}
            onClick={() => open(index)}
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
            {node.note && (
              <span className="shrink-0 text-tiny font-normal text-ink2 not-italic">{node.note}</span>
            )}
          </div>
        ))}
      </div>
    </>
  );
}
