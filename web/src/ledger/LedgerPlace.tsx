// The ledger: who did what, for whom, when, what was and what is.

import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Shapes } from "../api/client";
import { UndoTrouble } from "../shared/changes/AppliedNote";
import { useApplied, useUndoApplied } from "../shared/changes/changeSet";
import { keys } from "../shared/keys";
import { NameMenu } from "../shared/NameMenu";
import { clock, day } from "../shared/time";
import { Button, Chip, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";

const KINDS: Record<string, string> = {
  "": "Everything",
  "change-set": "Access",
  role: "Roles",
  page: "Pages",
  expectation: "Expectations",
  "stand-in": "Standing in",
  account: "Accounts",
};

function useLedger(search: string, kind: string) {
  return useInfiniteQuery({
    queryKey: keys.ledger(search, kind),
    queryFn: ({ pageParam }) =>
      answer(api.GET("/api/ledger", { params: { query: { search, kind, before: pageParam } } })),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => last.before ?? undefined,
    placeholderData: (before) => before,
  });
}

export function LedgerPlace() {
  const [search, setSearch] = useParam("search");
  const [kind, setKind] = useParam("kind");
  const ledger = useLedger(search, kind);
  const applied = useApplied();
  const entries = ledger.data?.pages.flatMap((page) => page.entries) ?? [];
  return (
    <section className="flex min-w-0 flex-1 flex-col overflow-y-auto px-[26px] pt-[30px] pb-8">
      <div className="flex items-center gap-2">
        <h1 className="mr-2">Ledger</h1>
        {Object.entries(KINDS).map(([key, name]) => (
          <Chip key={key} on={kind === key} onClick={() => setKind(key)}>
            {name}
          </Chip>
        ))}
        <span className="flex-1" />
        <label>
          <span className="sr-only">Words in an entry</span>
          <input
            value={search}
            onChange={(event) => setSearch(event.target.value)}
            placeholder="Words in an entry"
            className={`${INPUT} w-[200px]`}
          />
        </label>
      </div>
      {ledger.error && <ErrorNotice error={ledger.error} again={ledger.refetch} />}
      {ledger.isPending && <Loading what="the ledger" />}
      {ledger.data && entries.length === 0 && (
        <Empty title="No such entry">What changes is written here as it happens.</Empty>
      )}
      {entries.length > 0 && (
        <ol className="mt-3">
          {entries.map((entry) => (
            <Entry key={entry.number} entry={entry} undoable={applied.has(entry.about_id)} />
          ))}
        </ol>
      )}
      {ledger.hasNextPage && (
        <Button
          className="mt-3 self-start"
          onClick={() => ledger.fetchNextPage()}
          disabled={ledger.isFetchingNextPage}
        >
          Older entries
        </Button>
      )}
    </section>
  );
}

function Entry({ entry, undoable }: { entry: Shapes["EntryShape"]; undoable: boolean }) {
  const [open, setOpen] = useState(false);
  const many = entry.changes.length > 0;
  const undo = useUndoApplied();
  return (
    <li className="border-b border-linen2 py-[7px]">
      <div className="grid grid-cols-[96px_190px_1fr_auto] items-baseline gap-3 text-read">
        <time dateTime={entry.at} className="figures text-ink2">
          {day(entry.at)}, {clock(entry.at)}
        </time>
        <span>
          <span className="group/name inline-flex items-center">
            {entry.actor ?? "The system"}
            {entry.actor && entry.actor_id && (
              <NameMenu of={{ account: entry.actor_id }} name={entry.actor} />
            )}
          </span>
          {entry.standing_for && (
            <span className="block text-xs text-ink2">standing in for {entry.standing_for}</span>
          )}
        </span>
        <span className="font-medium">{entry.summary}</span>
        <span className="-my-[7px] text-right whitespace-nowrap">
          {undoable && (
            <Button
              look="quiet"
              aria-label={`Undo: ${entry.summary}`}
              disabled={undo.isPending}
              onClick={() => undo.mutate(entry.about_id)}
            >
              Undo
            </Button>
          )}
          {many && (
            <Button look="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
              {open ? "Less" : `What changed`}
            </Button>
          )}
        </span>
      </div>
      <UndoTrouble error={undo.error} />
      {open && (
        <table className="mt-1 ml-[310px] text-sm">
          <thead>
            <tr className="text-left text-xs text-ink2">
              <th className="pr-6 font-normal">What</th>
              <th className="pr-6 font-normal">Was</th>
              <th className="font-normal">Is</th>
            </tr>
          </thead>
          <tbody>
            {entry.changes.map((change) => (
              <tr key={change.what} className="align-top">
                <td className="py-[2px] pr-6 font-medium">{change.what}</td>
                <td className="pr-6 text-ink2">{shown(change.was)}</td>
                <td>{shown(change.now)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </li>
  );
}

function shown(value: unknown): string {
  if (value === null || value === undefined || value === "") return "nothing";
  return typeof value === "object" ? JSON.stringify(value) : String(value);
}
