// The desk: the tree one may see, the page in the middle, what may be changed on the right; or its start, bin and lists.
import { useEffect, useState } from "react";
import { useLocation, useParams } from "react-router";
import { Button, Chip, ErrorNotice } from "../shared/ui";
import { BinPlace } from "./BinPlace";
import { DeskTree } from "./DeskTree";
import { PagePane } from "./PagePane";
import { PeoplePlace } from "./PeoplePlace";
import { SitesPlace } from "./SitesPlace";
import { StartPlace } from "./StartPlace";
import { TopicsPlace } from "./TopicsPlace";
import { useBringBack } from "./usePlaces";
import { WaitingPlace } from "./WaitingPlace";

export function DeskPlace() {
  const { node = "", part = "" } = useParams();
  const { key } = useLocation();
  const [side, turn] = useState<Side>("page");
  // biome-ignore lint/correctness/useExhaustiveDependencies: wherever one goes, that is what one wants to see
  useEffect(() => turn("page"), [key]);
  return (
    <div data-side={side} className="group/desk flex min-w-0 flex-1 max-[760px]:flex-col">
      <Sides side={side} sides={node ? ["pages", "page", "fields"] : ["pages", "page"]} onTurn={turn} />
      <DeskTree chosen={node} />
      <div className="flex min-h-0 min-w-0 flex-1 flex-col max-[760px]:group-data-[side=pages]/desk:hidden">
        <JustRemoved key={key} />
        <div className="flex min-h-0 flex-1">
          {node ? <PagePane key={node} node={node} /> : <Part part={part} />}
        </div>
      </div>
    </div>
  );
}

type Side = "pages" | "page" | "fields";
const SIDES = { pages: "Pages", page: "This page", fields: "Parts and fields" };

/** On a narrow screen one side of the desk is shown at a time. */
function Sides({ side, sides, onTurn }: { side: Side; sides: Side[]; onTurn: (side: Side) => void }) {
  return (
    <div className="hidden shrink-0 gap-2 border-b border-line bg-linen2 px-3 py-2 max-[760px]:flex">
      {sides.map((one) => (
        <Chip key={one} on={one === side} onClick={() => onTurn(one)}>
          {SIDES[one]}
        </Chip>
      ))}
    </div>
  );
}

function Part({ part }: { part: string }) {
  if (part === "waiting") return <WaitingPlace />;
  if (part === "bin") return <BinPlace />;
  if (part === "people") return <PeoplePlace />;
  if (part === "topics") return <TopicsPlace />;
  if (part === "sites") return <SitesPlace />;
  return <StartPlace />;
}

/** What was removed a moment ago, with the way back. */
function JustRemoved() {
  const removed = useLocation().state?.removed as { id: string; title: string } | undefined;
  const back = useBringBack();
  if (!removed || back.isSuccess) return null;
  return (
    <div
      role="status"
      className="flex items-center gap-3 border-b border-line bg-warm px-[26px] py-1.5 text-sm"
    >
      <span className="min-w-0 truncate">
        <strong className="font-semibold">{removed.title}</strong> is in the bin.
      </span>
      <Button disabled={back.isPending} onClick={() => back.mutate({ node: removed.id })}>
        Bring it back
      </Button>
      <ErrorNotice error={back.error} />
    </div>
  );
}
