// The desk's tree: what may be seen, what is above it for context, and under the X-ray what is hidden.
import { useState } from "react";
import { Link, useLocation } from "react-router";
import { useDuty, useLooksOnly } from "../shared/session";
import { deskSource, type TreeName } from "../shared/tree/nodes";
import type { TreeRow } from "../shared/tree/treeRows";
import { type Source, useTree } from "../shared/tree/useTree";
import { Button, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { useOffers } from "../shared/useOffers";
import { useOpenHere } from "../shared/useOpenHere";
import { useParam } from "../shared/useParam";
import { useXray } from "../shared/useXray";
import { type DeskNode, xraySource } from "./deskRows";
import { NewPage } from "./NewPage";
import { PageTree } from "./PageTree";
import { Several } from "./Several";
import { usePageKept } from "./useDesk";

export function DeskTree({ chosen }: { chosen: string }) {
  const [name, setName] = useParam("tree");
  const open = useOpenTrees();
  const of = usePageKept(chosen).page?.tree;
  const tree = open.find((one) => one === (name || of || "content")) ?? open[0] ?? "content";
  const [xray] = useXray();
  const [words, setWords] = useState("");
  const source: Source<DeskNode> = xray ? xraySource(tree) : deskSource(tree);
  const nodes = useTree(source, { words, reveal: chosen });
  const [making, setMaking] = useOpenHere("new page");
  const [marked, mark] = useState<string[]>([]);
  const looks = useLooksOnly();
  const offers = useOffers().data;
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
        {!looks && offers?.make_under[tree] && (
          <Button look="main" onClick={() => setMaking(true)}>
            New
          </Button>
        )}
      </div>
      <Parts />
      <NewPage
        open={making}
        onClose={() => setMaking(false)}
        tree={tree}
        at={newAt(nodes.rows, chosen)}
        orAt={offers?.make_under[tree] ?? ""}
      />
      {open.length > 1 && (
        <div className="flex gap-4 px-[16px] pt-2 pb-2 text-read">
          {open.map((key) => (
            <button
              key={key}
              type="button"
              aria-pressed={tree === key}
              onClick={() => setName(key)}
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
        <Empty title={words ? "Nothing is called that" : "Nothing here"}>{words ? "" : nothing(open)}</Empty>
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

const nothing = (open: TreeName[]) =>
  open.length > 0
    ? "There is nothing in this tree you may see."
    : "Neither the content nor the media of the desk are open to you.";

/** The trees of pages whose sections are open, the content first. */
function useOpenTrees(): TreeName[] {
  const [content, media] = [useDuty("content.open"), useDuty("media.open")];
  return [...(content ? (["content"] as const) : []), ...(media ? (["media"] as const) : [])];
}

/** The other parts of the desk, above the tree. */
function Parts() {
  const offers = useOffers().data;
  const [topics, people] = [useDuty("topics.open"), useDuty("accounts.open")];
  const [settings, sites] = [useDuty("settings.open"), useDuty("site.settings")];
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
      {(offers?.waiting || pathname === "/desk/-/waiting") && link("/desk/-/waiting", "Waiting")}
      {(offers?.bin || pathname === "/desk/-/bin") && link("/desk/-/bin", "Bin")}
      {topics && link("/desk/-/topics", "Topics")}
      {people && link("/desk/-/people", "People")}
      {settings && sites && link("/desk/-/sites", "Sites")}
    </div>
  );
}

/** Where a new page is to stand at first: under the page that is open, or else under the first one. */
function newAt(rows: TreeRow<DeskNode>[], chosen: string): string {
  const seen = rows.filter(({ node }) => !node.context);
  return (seen.find(({ node }) => node.id === chosen) ?? seen[0])?.node.id ?? "";
}
