// The desk's tree: what may be seen, what is above it for context, and under the X-ray what is hidden.
import { useMemo, useState } from "react";
import { Link, useLocation } from "react-router";
import { useDuty, useSession } from "../shared/session";
import { matching } from "../shared/treeRows";
import { Button, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import { useReasonWords } from "../shared/useWords";
import { useXray } from "../shared/useXray";
import { merged } from "./deskRows";
import { NewPage } from "./NewPage";
import { Several } from "./Several";
import { TreeRows } from "./TreeRows";
import { type TreeName, type TreeNode, useDeskTree, useXrayTree } from "./useDesk";

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
  const [marked, mark] = useState<string[]>([]);
  const standing = Boolean(useSession().data?.standing_in);
  const all = useMemo(
    () => (nodes.data ? merged(nodes.data, xray ? (ghosts.data ?? []) : [], reasons) : []),
    [nodes.data, ghosts.data, xray, reasons],
  );
  const shown = useMemo(() => matching(all, words), [all, words]);
  return (
    <nav
      aria-label="Pages"
      className="flex w-[244px] shrink-0 flex-col border-r border-line bg-linen2 pt-[28px]"
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
        <TreeRows
          key={`${tree} ${words !== ""}`}
          nodes={shown}
          chosen={chosen}
          opened={words ? 99 : 2}
          marked={marked}
          onMark={(id) => mark(marked.includes(id) ? marked.filter((one) => one !== id) : [...marked, id])}
        />
      )}
      {marked.length > 0 && <Several chosen={marked} tree={tree} onDone={() => mark([])} />}
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
      {link("/desk/-/waiting", "Waiting")}
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
