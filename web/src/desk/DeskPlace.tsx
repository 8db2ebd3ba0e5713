// The desk: the tree one may see, the page in the middle, what may be changed on the right; or its start, bin and lists.
import { useLocation, useParams } from "react-router";
import { Button, ErrorNotice } from "../shared/ui";
import { BinPlace } from "./BinPlace";
import { DeskTree } from "./DeskTree";
import { PagePane } from "./PagePane";
import { SitesPlace } from "./SitesPlace";
import { StartPlace } from "./StartPlace";
import { TopicsPlace } from "./TopicsPlace";
import { useBringBack } from "./usePlaces";
import { WaitingPlace } from "./WaitingPlace";

export function DeskPlace() {
  const { node = "", part = "" } = useParams();
  return (
    <>
      <DeskTree chosen={node} />
      <div className="flex min-w-0 flex-1 flex-col">
        <JustRemoved key={useLocation().key} />
        <div className="flex min-h-0 flex-1">
          {node ? <PagePane key={node} node={node} /> : <Part part={part} />}
        </div>
      </div>
    </>
  );
}

function Part({ part }: { part: string }) {
  if (part === "waiting") return <WaitingPlace />;
  if (part === "bin") return <BinPlace />;
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
