// Expectations as a list: those that break first, by group, found by their words, a page at a time.
import { type ReactNode, useState } from "react";
import { NewExpectation } from "../shared/expectations/NewExpectation";
import { useAskAgain, useExpectationGroups, useExpectations } from "../shared/expectations/useExpectations";
import { useDuty } from "../shared/session";
import { TextLink } from "../shared/TextLink";
import { Button, Chip, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import { useSettled } from "../shared/useSettled";
import { ExpectationRow } from "./ExpectationRow";
import { SuggestedExpectations } from "./SuggestedExpectations";

const BROKE_TOLD = 5;

export function Expectations({ switcher }: { switcher: ReactNode }) {
  const [show, setShow] = useParam("show");
  const [words, setWords] = useParam("words");
  const settled = useSettled(words);
  const groups = useExpectationGroups();
  const breaks = show === "breaks";
  const group = breaks ? "" : show;
  const found = useExpectations({ breaks, group, words: settled });
  const again = useAskAgain();
  const reports = useDuty("roster.see");
  const [recording, record] = useState(false);
  const [suggesting, suggest] = useState(false);
  const error = groups.error ?? found.error;
  if (error)
    return <ErrorNotice error={error} again={() => Promise.all([groups.refetch(), found.refetch()])} />;
  if (!groups.data || !found.data)
    return (
      <>
        <h1>Expectations</h1>
        <Loading what="the expectations" />
      </>
    );
  const { expectations, breaking } = groups.data;
  const rows = found.data.pages.flatMap((page) => page.rows);
  const total = found.data.pages[0]?.total ?? 0;
  const note = groups.data.groups.find(({ id }) => id === group)?.note;
  return (
    <>
      <div className="flex flex-wrap items-center gap-2.5">
        <h1>Expectations</h1>
        {switcher}
        <span className="flex-1" />
        {reports && <TextLink to="/verify/report">Report for a client</TextLink>}
        <Button onClick={() => suggest(true)}>Suggest some</Button>
        <Button look="main" onClick={() => record(true)}>
          New expectation
        </Button>
      </div>
      <div className="mt-3 flex items-start gap-2.5">
        <div className="flex min-w-0 flex-1 flex-wrap items-center gap-2">
          <Chip on={show === ""} onClick={() => setShow("")}>
            All {expectations}
          </Chip>
          <Chip on={breaks} onClick={() => setShow("breaks")}>
            Break {breaking}
          </Chip>
          {groups.data.groups.map(({ id, name, expectations, breaking }) => (
            <Chip key={id} on={group === id} onClick={() => setShow(id)}>
              {name} {breaking ? `${expectations - breaking} / ${expectations}` : expectations}
            </Chip>
          ))}
        </div>
        <input
          type="search"
          aria-label="Find expectations"
          placeholder="Words in a sentence"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          className={`${INPUT} max-w-[170px]`}
        />
        <Button onClick={() => again.mutate()} disabled={again.isPending}>
          Ask again
        </Button>
      </div>
      <p role="status" className="figures text-right text-xs text-ink2">
        {again.data !== undefined && `asked just now, in ${again.data.toFixed(0)} ms`}
      </p>
      {note && <p className="mt-2 text-sm text-ink2">{note}</p>}
      <ErrorNotice error={again.error} />
      {rows.length === 0 ? (
        <Empty title={expectations ? "None like that" : "Nothing is expected yet"}>
          {expectations
            ? "No expectation matches. Everything else recorded here is as it was."
            : "Say what someone may or may not do, here or while standing in for them. It is asked before every change."}
        </Empty>
      ) : (
        <table className="mt-2 w-full text-read">
          <thead>
            <tr className="border-b border-line text-left text-xs text-ink2">
              <th className="w-[32px]">
                <span className="sr-only">State</span>
              </th>
              <th className="py-1.5 font-normal">Expected</th>
              <th className="w-[220px] font-normal">Now</th>
              <th className="w-[130px] font-normal">Recorded</th>
              <th className="w-[130px]">
                <span className="sr-only">Do</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((expectation, at) => (
              <ExpectationRow key={expectation.id} expectation={expectation} tellsBroke={at < BROKE_TOLD} />
            ))}
          </tbody>
        </table>
      )}
      {rows.length < total && (
        <p className="mt-3 flex items-center gap-3 text-sm text-ink2">
          {rows.length} of {total}
          <Button onClick={() => found.fetchNextPage()} disabled={found.isFetchingNextPage}>
            Show more
          </Button>
        </p>
      )}
      <SuggestedExpectations open={suggesting} onClose={() => suggest(false)} />
      <NewExpectation open={recording} onClose={() => record(false)} />
    </>
  );
}
