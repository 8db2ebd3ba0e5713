// The right side of the tree: the limits that count at one node, and who can still edit there.
import type { ReactNode } from "react";
import { useStage } from "../shared/changes/changeSet";
import { APPLIES, LimitSentence } from "../shared/LimitSentence";
import { TextButton } from "../shared/TextLink";
import { count, day } from "../shared/time";
import { Button, ErrorNotice, Loading } from "../shared/ui";
import { useActionsOnPages } from "../shared/useWords";
import { WhoCan } from "../shared/WhoCan";
import { type LimitData, usePlace } from "./useLimits";

type PanelProps = { node: string; action: string; onGo: (node: string) => void; setting: ReactNode };

/** `setting` is what sets the chosen cells. */
export function PlacePanel({ node, action, onGo, setting }: PanelProps) {
  const place = usePlace(node);
  const words =
    useActionsOnPages()
      .find(({ key }) => key === action)
      ?.name.toLowerCase() ?? action;
  return (
    <aside
      aria-label="Limits here"
      className="w-[330px] shrink-0 max-[1180px]:w-[280px] overflow-y-auto border-l border-line bg-paper px-[18px] pt-[30px] pb-8"
    >
      {!node && (
        <p className="text-sm text-ink2">Choose a row of the tree to see and set the limits there.</p>
      )}
      {place.error && <ErrorNotice error={place.error} again={place.refetch} />}
      {node && place.isPending && <Loading what="the limits" />}
      {place.data && (
        <>
          <p className="text-xs text-ink2">
            {place.data.above ? `${place.data.above} /` : "Root of the tree"}
          </p>
          <h1 className="text-lg!">{place.data.title}</h1>
          <p className="text-ink2">
            {place.data.beneath === 0
              ? "Nothing beneath"
              : `${count(place.data.beneath, "page")} beneath, ${place.data.published} of them published`}
          </p>
          {setting}
          <Part title="Set here">
            {place.data.here.length === 0 && <p>Nothing</p>}
            {place.data.here.map((limit) => (
              <LimitCard key={limit.id} limit={limit} />
            ))}
          </Part>
          <Part title="Coming from above">
            {place.data.from_above.length === 0 && <p>Nothing</p>}
            {place.data.from_above.map((limit) => (
              <Elsewhere key={limit.id} limit={limit} onGo={onGo} />
            ))}
          </Part>
          <Part title="Lifted beneath">
            {place.data.lifted_beneath.length === 0 && <p>Nothing</p>}
            {place.data.lifted_beneath.map((limit) => (
              <Elsewhere key={limit.id} limit={limit} onGo={onGo} />
            ))}
          </Part>
          <section className="mt-5">
            <WhoCan question={{ action, node }} words={`${words} here`} />
          </section>
        </>
      )}
    </aside>
  );
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section className="mt-4 text-read">
      <h2 className="mb-1 text-xs font-semibold text-ink2">{title}</h2>
      {children}
    </section>
  );
}

function LimitCard({ limit }: { limit: LimitData }) {
  const stage = useStage();
  return (
    <div className="mb-2 rounded-md border border-line bg-paper px-3 py-2 leading-[1.45]">
      <p className={limit.staged === "ending" ? "line-through" : ""}>
        <LimitSentence limit={limit} />
      </p>
      <p className="flex items-center justify-between text-ink2">
        <span>
          {APPLIES[limit.applies]}
          {limit.set_by && limit.set_at ? `, by ${limit.set_by}, ${day(limit.set_at)}` : ""}
          {limit.staged && (
            <span className="text-[#75531a]">
              <span className="mx-1.5 inline-block size-[7px] rounded-full bg-brass" aria-hidden="true" />
              {limit.staged === "new" ? "staged" : "staged to end"}
            </span>
          )}
        </span>
        {limit.staged === "" && (
          <Button look="quiet" onClick={() => stage.mutate([{ kind: "drop-limit", limit: limit.id }])}>
            Drop
          </Button>
        )}
      </p>
    </div>
  );
}

function Elsewhere({ limit, onGo }: { limit: LimitData; onGo: (node: string) => void }) {
  return (
    <p className="mb-1">
      <TextButton className="font-semibold" onClick={() => onGo(limit.node)}>
        {limit.title}
      </TextButton>
      : <LimitSentence limit={limit} />, {APPLIES[limit.applies]}
    </p>
  );
}
