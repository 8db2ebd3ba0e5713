// Every limit there is, in one list: what each narrows today, which change nothing, and dropping several together.
import { useState } from "react";
import { useStage } from "../shared/changes/changeSet";
import { APPLIES, LimitSentence } from "../shared/LimitSentence";
import { TextButton } from "../shared/TextLink";
import { count, day } from "../shared/time";
import { Button, Chip, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { type ListedLimit, useLimits, useOneLimit } from "./useLimits";

export function AllLimits({ onOpen }: { onOpen: (limit: ListedLimit) => void }) {
  const limits = useLimits();
  const [words, setWords] = useState("");
  const [onlyIdle, setOnlyIdle] = useState(false);
  const [chosen, choose] = useState<Set<string>>(new Set());
  const stage = useStage();
  if (limits.error) return <ErrorNotice error={limits.error} again={limits.refetch} />;
  if (!limits.data) return <Loading what="the limits" />;
  if (limits.data.length === 0) {
    return (
      <Empty title="There is no limit">Choose a cell under Content branches, and stop something there.</Empty>
    );
  }
  const idle = limits.data.filter((limit) => limit.idle !== "");
  const shown = (onlyIdle ? idle : limits.data).filter((limit) => fits(limit, words));
  const droppable = shown.filter(({ id, staged }) => chosen.has(id) && staged === "");
  const all = shown.length > 0 && shown.every(({ id }) => chosen.has(id));
  return (
    <div className="min-h-0 flex-1 overflow-y-auto pt-2 pb-6">
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <input
          aria-label="Where, for whom, or who set it"
          placeholder="Where, for whom, or who set it"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          className={`${INPUT} w-[260px]!`}
        />
        <Chip on={onlyIdle} onClick={() => setOnlyIdle(!onlyIdle)}>
          Change nothing {idle.length}
        </Chip>
        <span className="flex-1" />
        <Button
          disabled={droppable.length === 0 || stage.isPending}
          onClick={() =>
            stage.mutate(
              droppable.map(({ id }) => ({ kind: "drop-limit", limit: id })),
              { onSuccess: () => choose(new Set()) },
            )
          }
        >
          Drop {droppable.length > 0 ? count(droppable.length, "limit") : "those chosen"}
        </Button>
      </div>
      <ErrorNotice error={stage.error} />
      <table className="w-full text-read">
        <thead>
          <tr className="border-b border-line text-left text-xs text-ink2">
            <th className="w-[26px] py-1.5">
              <input
                type="checkbox"
                aria-label="All of these"
                className="accent-rod"
                checked={all}
                onChange={() => choose(all ? new Set() : new Set(shown.map(({ id }) => id)))}
              />
            </th>
            {["Where", "What", "How far", "Narrows today", "Set"].map((name) => (
              <th key={name} className="py-1.5 font-normal">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map((limit) => (
            <tr key={limit.id} className="border-b border-linen2 align-top">
              <td className="py-1.5">
                <input
                  type="checkbox"
                  aria-label={`${limit.title}: ${limit.effect} for ${limit.subject_name}`}
                  className="mt-1 accent-rod"
                  checked={chosen.has(limit.id)}
                  onChange={() => choose(toggled(chosen, limit.id))}
                />
              </td>
              <td className="py-1.5 pr-3">
                <TextButton className="font-semibold" onClick={() => onOpen(limit)}>
                  {limit.title}
                </TextButton>
              </td>
              <td className={`py-1.5 pr-3 ${limit.staged === "ending" ? "line-through" : ""}`}>
                <LimitSentence limit={limit} />
              </td>
              <td className="py-1.5 pr-3 text-ink2">{APPLIES[limit.applies]}</td>
              <td className="py-1.5 pr-3">
                <Narrows limit={limit} />
              </td>
              <td className="py-1.5 text-ink2">
                {limit.staged
                  ? limit.staged === "new"
                    ? "staged"
                    : "staged to end"
                  : [limit.set_by, limit.set_at && day(limit.set_at)].filter(Boolean).join(", ")}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {shown.length === 0 && <Empty title="None of them">Look for something else.</Empty>}
    </div>
  );
}

const IDLE: Record<string, string> = {
  keyholder: "nothing: a keyholder may do everything",
  inactive: "nothing: the account is not active",
  "nobody-holds": "nothing: nobody holds the role",
  "nobody-in": "nothing: nobody is in the group",
  "nothing-to-lift": "nothing: there is nothing to lift",
  "not-given": "nothing: none of it is given there",
};

/** What a limit changes today; of what was much to count, once somebody asks. */
function Narrows({ limit }: { limit: ListedLimit }) {
  const [asked, ask] = useState(false);
  const one = useOneLimit(limit.id, asked);
  const { narrows, idle } = one.data ?? limit;
  if (idle) return <span className="text-[#75531a]">{IDLE[idle] ?? "nothing"}</span>;
  if (narrows) {
    const people = narrows.accounts === null ? "" : `${count(narrows.accounts, "account")}, `;
    return <span className="text-ink2">{`${people}${count(narrows.pages, "page")}`}</span>;
  }
  if (limit.staged === "ending") return null;
  if (one.isSuccess) return <span className="text-ink2">more than is counted at once</span>;
  return (
    <Button look="quiet" className="-ml-2" disabled={one.isFetching} onClick={() => ask(true)}>
      {one.isFetching ? "Counting…" : "Count it"}
    </Button>
  );
}

function fits({ title, subject_name, set_by }: ListedLimit, words: string): boolean {
  const text = `${title} ${subject_name} ${set_by ?? ""}`.toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}

function toggled(chosen: Set<string>, id: string): Set<string> {
  const next = new Set(chosen);
  if (!next.delete(id)) next.add(id);
  return next;
}
