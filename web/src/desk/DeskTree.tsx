// The desk's tree: what may be seen, what is above it for context, and under the X-ray what is hidden.
import { useState } from "react";
import { Link, useLocation } from "react-router";
import { useDuty, useSession } from "../shared/session";
import { deskSource, type TreeName } from "../shared/tree/nodes";
import type { TreeRow } from "../shared/tree/treeRows";
import { type Source, useTree } from "../shared/tree/useTree";
import { Button, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import { useXray } from "../shared/useXray";
import { type DeskNode, xraySource } from "./deskRows";
import { NewPage } from "./NewPage";
import { PageTree } from "./PageTree";
import { Several } from "./Several";

export function DeskTree({ chosen }: { chosen: string }) {
  const [name, setName] = useParam("tree");
  const tree: TreeName = name === "media" ? "media" : "content";
  const media = useDuty("media.open");
  const [xray] = useXray();
  const [words, setWords] = useState("");
  const source: Source<DeskNode> = xray ? xraySource(tree) : deskSource(tree);
  const nodes = useTree(source, { words, reveal: chosen });
  const [making, setMaking] = useState(false);
  const [marked, mark] = useState<string[]>([]);
  const standing = Boolean(useSession().data?.standing_in);
  return (
    <nav
      aria-label="Pages"
      className="flex w-[244px] shrink-0 flex-col border-r border-line bg-linen2 pt-[28px] max-[760px]:hidden max-[760px]:min-h-0 max-[760px]:w-full max-[760px]:flex-1 max-[760px]:pt-3 max-[760px]:group-data-[side=pages]/desk:flex"
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
      <NewPage open={making} onClose={() => setMaking(false)} tree={tree} at={newAt(nodes.rows, chosen)} />
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
      <ErrorNotice error={nodes.error} again={nodes.again} />
      {nodes.pending && <Loading what="the tree" />}
      {!nodes.pending && !nodes.error && nodes.rows.length === 0 && (
        <Empty title={words ? "Nothing is called that" : "Nothing here"}>
          {words ? "" : "There is nothing in this tree you may see."}
        </Empty>
      )}
      {nodes.rows.length > 0 && (
        <PageTree
          key={tree}
          tree={nodes}
          chosen={chosen}
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
function newAt(rows: TreeRow<DeskNode>[], chosen: string): string {
  const seen = rows.filter(({ node }) => !node.context);
  return (seen.find(({ node }) => node.id === chosen) ?? seen[0])?.node.id ?? "";
}
