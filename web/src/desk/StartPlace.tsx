// The start of the desk: what waits, what came back, what one asked for, one's drafts, where one left off.
import type { ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import type { Shapes } from "../api/client";
import { RoleCloth } from "../cloth/RoleCloth";
import { useSession } from "../shared/session";
import { count, day, when } from "../shared/time";
import { Button, ErrorNotice, Loading } from "../shared/ui";
import { useCatalogue } from "../shared/useRoles";
import { AskedToWalk } from "./AskedToWalk";
import { wayTo } from "./useDesk";
import { useStart } from "./usePlaces";
import { WhereToWork } from "./WhereToWork";

type Start = Shapes["StartShape"];
type Row = Shapes["StartPageShape"];
type Asked = Shapes["RequestShape"];

const LEFT = ["waits", "came_back", "asked_of_me", "asked"];

export function StartPlace() {
  const start = useStart();
  const subject = useSession().data?.subject;
  const name = subject?.whose === "account" ? `, ${subject.name.split(" ")[0]}` : "";
  if (start.error) return <ErrorNotice error={start.error} again={start.refetch} />;
  if (!start.data) return <Loading what="your start" />;
  const { data } = start;
  const shown = data.parts.filter((part) => partOf(data, part) !== null);
  const [left, right] = [true, false].map((first) => shown.filter((part) => LEFT.includes(part) === first));
  return (
    <section
      aria-label="Start"
      className="min-w-0 flex-1 overflow-y-auto px-[30px] pt-[30px] max-[760px]:px-3 max-[760px]:pt-4 pb-8"
    >
      <h1>
        {greeting(new Date().getHours())}
        {name}
      </h1>
      <p className="text-xs text-ink2">{summary(data)}</p>
      {nothingYet(data) && <WhereToWork />}
      <div className="mt-4 grid grid-flow-col auto-cols-[minmax(0,560px)] gap-x-10 max-[1100px]:grid-flow-row [&>:empty]:hidden">
        {[left ?? [], right ?? []].map((parts, side) => (
          <div key={side === 0 ? "left" : "right"}>
            {side === 0 && <AskedToWalk />}
            {parts.map((part) => (
              <div key={part}>{partOf(data, part)}</div>
            ))}
          </div>
        ))}
      </div>
    </section>
  );
}

/** Whether there is no work of one's own here yet, as on a first visit. */
function nothingYet({ waits, came_back, drafts, left_off }: Start): boolean {
  return [waits, came_back, drafts, left_off].every((rows) => rows.length === 0);
}

function partOf(data: Start, part: string): ReactNode {
  if (part === "waits") return pages("Waits for you", data.waits, "Look at it", waits);
  if (part === "came_back")
    return pages(
      "Came back",
      data.came_back,
      "Go on",
      ({ saved_by, saved_at }) => `returned by ${saved_by ?? "somebody"} ${when(saved_at)}`,
    );
  if (part === "drafts")
    return pages("Your drafts", data.drafts, "", ({ saved_at }) => `draft, saved ${when(saved_at)}`);
  if (part === "left_off")
    return pages(
      "Where you left off",
      data.left_off,
      "",
      ({ state, saved_at }) => `${STATES[state] ?? state}, saved ${when(saved_at)}`,
    );
  if (part === "asked_of_me") return requests("Asked of you", data.asked_of_me, true);
  if (part === "asked") return requests("What you asked for", data.asked, false);
  if (part === "ends_soon") return ending(data.ends_soon);
  if (part === "of_late") return late(data.of_late);
  return null;
}

const STATES: Record<string, string> = { review: "in review" };

function waits({ saved_by, saved_at }: Row): string {
  return `handed in by ${saved_by ?? "somebody"} ${when(saved_at)}`;
}

function pages(title: string, rows: Row[], button: string, note: (row: Row) => string): ReactNode {
  if (rows.length === 0) return null;
  return (
    <Part title={title}>
      {rows.map((row) => (
        <PageLine key={wayTo(row)} row={row} button={button} note={note(row)} />
      ))}
    </Part>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="mb-7">
      <h2 className="mb-1">{title}</h2>
      <ul>{children}</ul>
    </section>
  );
}

const LINE = "flex items-center gap-3 border-b border-line py-2.5";

function PageLine({ row, button, note }: { row: Row; button: string; note: string }) {
  const navigate = useNavigate();
  const type = useCatalogue().data?.types.find(({ key }) => key === row.type);
  const to = usePageAddress(row);
  const kindName = type?.name ?? row.type;
  return (
    <li className={LINE}>
      <div className="min-w-0 flex-1">
        <Link to={to} className="block truncate font-semibold hover:underline">
          {row.title}
        </Link>
        <p className="truncate text-xs text-ink2">
          {row.working ? `Working copy, ${kindName.toLowerCase()}` : kindName}, {note}
        </p>
        {row.note && <p className="mt-1.5 border-l-[3px] border-brass pl-2.5 text-sm">{row.note}</p>}
      </div>
      {button && (
        <Button aria-label={`${button}: ${row.title}`} onClick={() => navigate(to)}>
          {button}
        </Button>
      )}
    </li>
  );
}

function requests(title: string, rows: Asked[], mine: boolean): ReactNode {
  if (rows.length === 0) return null;
  return (
    <Part title={title}>
      {rows.map((row) => (
        <li key={row.id} className={LINE}>
          <div className="min-w-0 flex-1">
            <p className="truncate font-semibold">
              {mine ? `${row.who} asks to ${row.what}` : `To ${row.what}`}
            </p>
            <p className="text-xs text-ink2">{mine ? `asked ${when(row.asked_at)}` : outcome(row)}</p>
            {(mine ? row.word : row.answer) && (
              <p className="mt-1.5 border-l-[3px] border-brass pl-2.5 text-sm">
                {mine ? row.word : row.answer}
              </p>
            )}
          </div>
          {mine && (
            <Link to={`/assign/requests/${row.id}`} className="text-sm underline underline-offset-2">
              See what it would give
            </Link>
          )}
        </li>
      ))}
    </Part>
  );
}

function outcome({ state, decided_at, until }: Asked): string {
  if (state === "granted") return `granted ${when(decided_at ?? "")}${until ? `, until ${day(until)}` : ""}`;
  return state === "declined" ? `declined ${when(decided_at ?? "")}` : "waits for an answer";
}

function ending(rows: Start["ends_soon"]): ReactNode {
  if (rows.length === 0) return null;
  return (
    <Part title="Ends soon">
      {rows.map(({ role, ends }) => (
        <li key={`${role.key} ${ends}`} className={LINE}>
          <RoleCloth cloth={role.cloth} size={20} />
          <p>
            <strong className="font-semibold">{role.name}</strong>, yours until {day(ends)}
          </p>
        </li>
      ))}
    </Part>
  );
}

function late(rows: Start["of_late"]): ReactNode {
  if (rows.length === 0) return null;
  return (
    <Part title="Of late, around your pages">
      {rows.map((row) => (
        <Late key={row.id} row={row} />
      ))}
    </Part>
  );
}

const DONE: Record<Start["of_late"][number]["did"], string> = {
  made: "made",
  saved: "changed",
  "handed-in": "handed in",
  "taken-back": "took back",
  returned: "returned",
  published: "published",
  retired: "retired",
  "to-draft": "made a draft again of",
  moved: "moved",
  "brought-back": "brought back",
  "copy-published": "published a working copy of",
};

function Late({ row }: { row: Start["of_late"][number] }) {
  const to = usePageAddress(row);
  return (
    <li className="py-1 text-xs text-ink2">
      {row.who ?? "Somebody"} {DONE[row.did]}{" "}
      <Link to={to} className="text-ink underline decoration-line2 underline-offset-2">
        {row.title}
      </Link>{" "}
      {when(row.at)}
    </li>
  );
}

function usePageAddress(row: { id: string; type: string; working?: boolean }): string {
  const kind = useCatalogue().data?.types.find(({ key }) => key === row.type);
  return wayTo(row, kind?.tree ?? undefined);
}

function greeting(hour: number): string {
  return hour < 5 ? "Good night" : hour < 12 ? "Good morning" : hour < 18 ? "Good day" : "Good evening";
}

function summary({ waits, came_back }: Start): string {
  const parts = [];
  if (waits.length > 0) parts.push(`${count(waits.length, "page waits", "pages wait")} for you.`);
  if (came_back.length > 0) parts.push(`${count(came_back.length, "page")} of yours came back.`);
  return parts.join(" ");
}
