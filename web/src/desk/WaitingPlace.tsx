// What was handed in and waits for one: each page with what changed since visitors last read it, to publish or return.

import { useState } from "react";
import { Link } from "react-router";
import { ClosedRows } from "../shared/Closed";
import { useLooksOnly } from "../shared/session";
import { when } from "../shared/time";
import { Button, Empty, ErrorNotice, Loading } from "../shared/ui";
import { useCatalogue } from "../shared/useRoles";
import { isPublicChanged, PublicChanged } from "./PublicChanged";
import { Return } from "./Return";
import { SincePublic } from "./SincePublic";
import { useMovePageOn, wayTo } from "./useDesk";
import { useWaiting, type Waiting } from "./useWaiting";

export function WaitingPlace() {
  const waiting = useWaiting();
  return (
    <section
      aria-label="Waiting"
      className="min-w-0 flex-1 overflow-y-auto px-[30px] pt-[30px] max-[760px]:px-3 max-[760px]:pt-4 pb-8"
    >
      <h1>Waiting</h1>
      <p className="text-sm text-ink2">
        Pages and working copies handed in that you may publish, who waits longest first.
      </p>
      {waiting.error && <ErrorNotice error={waiting.error} again={waiting.refetch} />}
      {waiting.isPending && <Loading what="what waits" />}
      {waiting.data?.length === 0 && (
        <Empty title="Nothing waits for you">What others hand in, and you may publish, stands here.</Empty>
      )}
      <ul className="mt-4 max-w-[860px]">
        {waiting.data?.map((row) => (
          <Row key={`${row.id} ${row.working}`} row={row} />
        ))}
      </ul>
      <ClosedRows of="waiting" />
    </section>
  );
}

function Row({ row }: { row: Waiting }) {
  const [open, show] = useState(false);
  const publish = useMovePageOn(row);
  const looks = useLooksOnly();
  const type = useCatalogue().data?.types.find(({ key }) => key === row.type);
  return (
    <li className="border-b border-line py-3">
      <div className="flex items-start gap-3">
        <div className="min-w-0 flex-1">
          <p className="truncate text-xs text-ink2">{row.above.join(" / ")}</p>
          <Link
            to={wayTo(row, type?.tree ?? undefined)}
            className="block truncate font-semibold hover:underline"
          >
            {row.title}
          </Link>
          <p className="text-xs text-ink2">
            {row.working ? "Working copy, " : ""}
            {row.working ? (type?.name ?? row.type).toLowerCase() : (type?.name ?? row.type)}, handed in by{" "}
            {row.handed_in_by ?? "somebody"}, {when(row.handed_in_at)}
            {row.was_public ? "" : ", never public before"}
          </p>
          {row.note && <p className="mt-1.5 border-l-[3px] border-brass pl-2.5 text-sm">{row.note}</p>}
        </div>
        <Button look="quiet" aria-expanded={open} onClick={() => show(!open)}>
          {row.was_public ? "What changed" : "What it says"}
        </Button>
        {!looks && (
          <>
            <Return page={row} disabled={publish.isPending} />
            <Button
              aria-label={`Publish ${row.title}`}
              disabled={publish.isPending}
              onClick={() => publish.mutate({ step: "publish" })}
            >
              Publish
            </Button>
          </>
        )}
      </div>
      {!isPublicChanged(publish.error) && <ErrorNotice error={publish.error} />}
      <PublicChanged
        of={row}
        error={publish.error}
        onGoOn={(over) => publish.mutate({ step: "publish", over })}
        onClose={() => publish.reset()}
      />
      {open && <SincePublic of={row} />}
    </li>
  );
}
