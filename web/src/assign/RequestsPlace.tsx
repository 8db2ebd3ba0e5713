// The inbox: what was asked for, the smallest changes that would do, and deciding in one step.

import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { TextField } from "../shared/fields";
import { NameLink } from "../shared/NameMenu";
import { day } from "../shared/time";
import { TurnLine } from "../shared/turning/TurnLine";
import type { Turn } from "../shared/turning/useTurns";
import { Button, Empty, ErrorNotice, Loading } from "../shared/ui";
import { ago } from "./notes";
import { RosterHead } from "./RosterHead";
import { type AccessRequest, useDecline, useGrant, useRequest, useRequests } from "./useRequests";
import { Moment } from "./When";

export function RequestsPlace() {
  const open = useParams().request ?? "";
  const requests = useRequests();
  const navigate = useNavigate();
  return (
    <>
      <section
        aria-label="Requests"
        className="flex w-[430px] shrink-0 flex-col border-r border-line bg-linen2 pt-[30px]"
      >
        <div className="px-[18px]">
          <RosterHead narrow />
        </div>
        {requests.error && <ErrorNotice error={requests.error} again={requests.refetch} />}
        {requests.isPending && <Loading what="the requests" />}
        {requests.data?.length === 0 && (
          <Empty title="Nobody asks for anything">
            Whoever is refused on the desk can ask from there; it arrives here.
          </Empty>
        )}
        <ul className="min-h-0 flex-1 overflow-y-auto">
          {requests.data?.map((row) => (
            <li key={row.id}>
              <button
                type="button"
                aria-current={row.id === open || undefined}
                onClick={() => navigate(`/assign/requests/${row.id}`)}
                className={`block w-full border-b border-l-4 border-b-line px-[14px] py-2 text-left ${
                  row.id === open ? "border-l-brass bg-paper" : "border-l-transparent hover:bg-linen"
                }`}
              >
                <span className="block truncate text-read font-semibold">{row.who}</span>
                <span className="block truncate text-sm">{row.what}</span>
                <span className="block text-xs text-ink2">{outcome(row)}</span>
              </button>
            </li>
          ))}
        </ul>
      </section>
      {open ? (
        <Page key={open} request={open} />
      ) : (
        <Empty title="No request is open">Choose one to see what would do.</Empty>
      )}
    </>
  );
}

/** "asked today", or what came of it. */
export function outcome(row: AccessRequest): string {
  if (row.state === "open") return `asked ${ago(row.asked_at)}`;
  const until = row.until ? ` until ${day(row.until)}` : "";
  return `${row.state}${until}${row.decided_at ? `, ${ago(row.decided_at)}` : ""}`;
}

function Page({ request }: { request: string }) {
  const page = useRequest(request);
  const [until, setUntil] = useState<string | null>(null);
  if (page.error) return <ErrorNotice error={page.error} again={page.refetch} />;
  if (!page.data) return <Loading what="what would do" />;
  const { request: row, ways } = page.data;
  return (
    <section className="min-w-0 flex-1 overflow-y-auto px-[24px] pt-[30px] pb-8" aria-label={row.what}>
      <h1>
        {row.account ? (
          <NameLink of={{ account: row.account }} name={row.who} className="no-underline! hover:underline!" />
        ) : (
          row.who
        )}{" "}
        asks to {row.what}
      </h1>
      {row.word && (
        <p className="mt-2 max-w-[620px] border-l-[3px] border-brass pl-3 text-read">{row.word}</p>
      )}
      <p className="mt-2 text-sm text-ink2">{outcome(row)}</p>
      {row.state === "open" ? (
        <>
          <h2 className="mt-6 mb-2">What would do</h2>
          {ways.length === 0 && (
            <p className="text-sm text-ink2">
              Nothing small does: it is barred, or the page is gone. Look at the account, or decline.
            </p>
          )}
          {ways.some(({ timed }) => timed) && (
            <Moment label="Until" none="For good" value={until} onChange={setUntil} />
          )}
          <ul className="max-w-[720px]">
            {ways.map((way, i) => (
              <TurnLine key={way.sentence} turn={way}>
                <GiveIt request={request} way={way} first={i === 0} until={until} />
              </TurnLine>
            ))}
          </ul>
          <Decline request={request} />
        </>
      ) : (
        row.answer && <p className="mt-3 text-read">{row.answer}</p>
      )}
    </section>
  );
}

type GiveProps = { request: string; way: Turn; first: boolean; until: string | null };

function GiveIt({ request, way, first, until }: GiveProps) {
  const grant = useGrant(request);
  return (
    <span className="shrink-0 text-right">
      <Button
        look={first ? "main" : "plain"}
        disabled={!way.allowed || grant.isPending}
        onClick={() => grant.mutate({ operations: way.operations, until: way.timed ? until : null })}
      >
        {way.timed && until ? `Give it until ${day(until)}` : "Give it"}
      </Button>
      {!way.timed && <span className="block text-xs text-ink2">for good</span>}
      <ErrorNotice error={grant.error} />
    </span>
  );
}

function Decline({ request }: { request: string }) {
  const [word, setWord] = useState("");
  const decline = useDecline(request);
  return (
    <form
      className="mt-6 max-w-[520px]"
      onSubmit={(event) => {
        event.preventDefault();
        decline.mutate(word);
      }}
    >
      <TextField
        label="Or decline, with a word"
        error={decline.error?.message}
        value={word}
        max={500}
        onChange={setWord}
      />
      <Button type="submit" disabled={decline.isPending}>
        Decline
      </Button>
    </form>
  );
}
