// Two or three beside each other on one page, over the tree and on the board, with what differs marked.
import { ProblemError } from "../api/client";
import { PlacePicker } from "../shared/PlacePicker";
import { useStandIn } from "../shared/session";
import { Button, Chip, Empty, ErrorNotice, Loading } from "../shared/ui";
import { AddSide } from "./AddSide";
import { FIRST, SideHeads } from "./SideHeads";
import { SidePages } from "./SidePages";
import { SideRows } from "./SideRows";
import { SideTree } from "./SideTree";
import { MOST_SIDES, type Show, useSideBySide, useSides, useSidesOfTree } from "./sides";

const SHOWS: { key: Show; name: string }[] = [
  { key: "page", name: "The page" },
  { key: "parts", name: "The page and its parts" },
  { key: "tree", name: "The tree" },
  { key: "board", name: "The board" },
];

export function SideBySidePlace() {
  const { sides, node, show, only, set, setSides } = useSides();
  const onPage = show === "page" || show === "parts";
  const beside = useSideBySide(show === "tree" ? [] : sides, show === "tree" ? "board" : show, node, only);
  const tree = useSidesOfTree(show === "tree" ? sides : [], only);
  const data = show === "tree" ? tree.data?.pages[0] : beside.data;
  const error = show === "tree" ? tree.error : beside.error;
  const standIn = useStandIn();
  return (
    <section className="flex min-w-0 flex-1 flex-col overflow-y-auto" aria-label="Side by side">
      <header className="flex flex-wrap items-center gap-2.5 border-b border-line px-[22px] pt-[26px] pb-2.5">
        <h1 className="mr-1">Side by side</h1>
        <div className="w-[210px]">
          <PlacePicker
            tree="content"
            value={node}
            onPick={(id) => set("node", id)}
            name={data?.title ?? undefined}
          />
        </div>
        {SHOWS.map(({ key, name }) => (
          <Chip key={key} on={show === key} onClick={() => set("show", key)}>
            {name}
          </Chip>
        ))}
        <span className="flex-1" />
        {show !== "page" && (
          <Chip on={only} onClick={() => set("only", only ? "" : "on")}>
            Only differences {data?.differing ?? ""}
          </Chip>
        )}
        {sides.length < MOST_SIDES && (
          <AddSide
            name={sides.length < 2 ? "Add somebody" : "Add a third"}
            onAdd={(side) => setSides([...sides, side])}
          />
        )}
      </header>
      <ErrorNotice error={error ?? standIn.error} />
      {sides.length < 2 && (
        <Empty title={sides.length === 0 ? "Nobody is here yet" : "One more is missing"}>
          Put two or three beside each other: people, roles, a visitor; or one of them now and on a date.
          {sides.length === 1 && (
            <Button className="mt-2 block" onClick={() => setSides([])}>
              Begin anew
            </Button>
          )}
        </Empty>
      )}
      {error instanceof ProblemError && sides.length > 1 && (
        <p className="px-[22px] py-2">
          <Button onClick={() => setSides(sides.slice(0, -1))}>Without the last one</Button>
        </p>
      )}
      {sides.length > 1 && !error && !data && onPage && !node && (
        <Empty title="Which page?">Choose one above, or look at the tree or the board.</Empty>
      )}
      {sides.length > 1 && !error && !data && (!onPage || node) && <Loading what="what each may do" />}
      {data && !error && (
        <>
          <SideHeads
            sides={data.sides}
            onLeave={(i) => setSides(sides.filter((_, at) => at !== i))}
            onStandIn={(way) => standIn.mutate(way)}
            busy={standIn.isPending}
            first={show === "page" ? "" : FIRST}
          />
          {show === "page" && <SidePages data={data} />}
          {(show === "parts" || show === "board") && (
            <SideRows data={data} node={show === "parts" ? node : ""} />
          )}
          {show === "tree" && <SideTree tree={tree} onOpen={(id) => set("node", id)} />}
        </>
      )}
    </section>
  );
}
