// Who can do something here: everybody by name with what gives it, then those who almost can and what stops them.
import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { answer, api, type Shapes } from "../api/client";
import { RoleCloth } from "../cloth/RoleCloth";
import { ExpectIt } from "./ExpectIt";
import { keys } from "./keys";
import { NameMenu } from "./NameMenu";
import { useDuty } from "./session";
import { count, day } from "./time";
import { Button, ErrorNotice, INPUT, Loading } from "./ui";

export type WhoQuestion = {
  action: string;
  node?: string;
  branch?: string;
  type?: string;
  field?: string;
  component?: string;
  facet?: string;
  component_id?: string;
};
type Row = Shapes["WhoCanRowShape"];

const PAGE = 200;
const FEW = 6;

function useWho(question: WhoQuestion, search: string, enabled: boolean) {
  const query = { ...question, ...(search ? { search } : {}) };
  return useInfiniteQuery({
    queryKey: keys.who(query),
    queryFn: ({ pageParam }) =>
      answer(api.GET("/api/limit/who", { params: { query: { ...query, offset: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (last, pages) =>
      pages.length * PAGE < Math.max(last.can_count, last.almost_count) ? pages.length * PAGE : undefined,
    enabled,
    placeholderData: (before) => before,
  });
}

/** `words` is what is asked, after "can". */
export function WhoCan({ question, words }: { question: WhoQuestion; words: string }) {
  const may = useDuty("roster.see");
  const [search, find] = useState("");
  const who = useWho(question, search, may);
  if (!may) return <p className="text-sm text-ink2">It is told to whoever sees the roster.</p>;
  if (who.error) return <ErrorNotice error={who.error} again={who.refetch} />;
  const first = who.data?.pages[0];
  if (!first) return <Loading what={`who can ${words}`} />;
  const can = who.data?.pages.flatMap((page) => page.can) ?? [];
  const almost = who.data?.pages.flatMap((page) => page.almost) ?? [];
  const many = search !== "" || first.can_count + first.almost_count > FEW;
  return (
    <>
      <h2>Who can {words}</h2>
      <p className="mb-1 text-sm text-ink2">
        {count(first.can_count, "account")} and {count(first.keyholders, "keyholder")}
      </p>
      {many && (
        <input
          aria-label="Part of a name"
          placeholder="Part of a name"
          value={search}
          onChange={(event) => find(event.target.value)}
          className={INPUT}
        />
      )}
      <Names key={`can ${search}`} label={`Who can ${words}`} rows={can} question={question} />
      {almost.length > 0 && (
        <>
          <h3 className="mt-4 font-semibold">Almost</h3>
          <Names
            key={`almost ${search}`}
            label={`Who almost can ${words}`}
            rows={almost}
            question={question}
          />
        </>
      )}
      <span className="mt-3 flex flex-wrap items-start gap-2">
        {who.hasNextPage && (
          <Button onClick={() => who.fetchNextPage()} disabled={who.isFetchingNextPage}>
            More
          </Button>
        )}
        <ExpectIt question={question} can={can} complete={search === "" && can.length === first.can_count} />
        <a
          className="self-start rounded border border-line2 bg-paper px-2.5 py-1 text-sm font-semibold hover:bg-linen2"
          href={`/api/limit/who/table?${new URLSearchParams({ ...question, ...(search ? { search } : {}) })}`}
          download
        >
          As a table
        </a>
      </span>
    </>
  );
}

type NamesProps = { label: string; rows: Row[]; question: WhoQuestion };

function Names({ label, rows, question }: NamesProps) {
  const [all, showAll] = useState(false);
  const shown = all ? rows : rows.slice(0, FEW);
  return (
    <>
      <ul aria-label={label} className="text-read">
        {shown.map((row) => (
          <li key={row.account} className="flex items-center gap-2 border-b border-line py-1.5">
            <RoleCloth cloth={row.through.find(({ role }) => role)?.role?.cloth} size={15} />
            <span className="group/name min-w-0 flex-1 leading-snug">
              <span className="flex items-center">
                <Link className="truncate font-semibold hover:underline" to={whyOf(row, question)}>
                  {row.name}
                </Link>
                <NameMenu of={{ account: row.account }} name={row.name} />
              </span>
              <span className="block text-xs text-ink2">
                {row.stopped || row.through.map(told).join("; ")}
              </span>
            </span>
            <span className="shrink-0 text-xs text-ink2">{farOf(row)}</span>
          </li>
        ))}
      </ul>
      {rows.length > shown.length && (
        <Button look="quiet" className="mt-1" onClick={() => showAll(true)}>
          {rows.length - shown.length} more
        </Button>
      )}
    </>
  );
}

/** Where the reasons of one answer are told. */
export function whyOf({ account }: { account: string }, { branch, ...question }: WhoQuestion): string {
  const asked = { ...question, node: question.node ?? branch ?? "", account };
  const given = Object.entries(asked).filter(([, value]) => value);
  return `/why?${new URLSearchParams(given)}`;
}

function told({ role, group, where, ends }: Row["through"][number]): string {
  const what = role ? role.name : "a single capability";
  return [what, group && `through ${group}`, where, ends && `until ${day(ends)}`].filter(Boolean).join(", ");
}

function farOf({ can, of, through, stopped }: Row): string {
  if (stopped) return "";
  if (of > 1) return can === of ? "all of it" : `${can} of ${of}`;
  const says = new Set(through.map((one) => one.says));
  return ["all", "yes", "team", "own"].find((word) => says.has(word)) ?? "";
}
