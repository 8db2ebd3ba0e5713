// Reviews: what is gone through, each assignment kept or ended with a reason, and the report.
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { ProblemError } from "../api/client";
import { RoleName } from "../cloth/RoleCloth";
import { Foreseen } from "../shared/changes/Foreseen";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { useDuty } from "../shared/session";
import { count, day } from "../shared/time";
import { Button, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { useRoleMap } from "../shared/useRoles";
import { NewReview } from "./NewReview";
import { RosterHead } from "./RosterHead";
import {
  foreseen,
  type Review,
  type ReviewItem,
  type RoleTag,
  useCloseReview,
  useDecide,
  useReview,
  useReviews,
} from "./useReviews";

export function ReviewsPlace() {
  const open = useParams().review ?? "";
  const reviews = useReviews();
  const navigate = useNavigate();
  const mayBegin = useDuty("roles.assign");
  const seesRoster = useDuty("roster.see");
  const here = seesRoster ? "/assign/reviews" : "/reviews";
  const [beginning, begin] = useState(false);
  return (
    <>
      <section
        aria-label="Reviews"
        className="flex w-[430px] shrink-0 flex-col border-r border-line bg-linen2 pt-[30px] print:hidden"
      >
        <div className="px-[18px]">
          {seesRoster ? <RosterHead narrow /> : <h1 className="mb-2">Reviews</h1>}
        </div>
        {mayBegin && (
          <div className="mb-3 px-[18px]">
            <Button onClick={() => begin(true)}>New review</Button>
          </div>
        )}
        {reviews.error && <ErrorNotice error={reviews.error} again={reviews.refetch} />}
        {reviews.isPending && <Loading what="the reviews" />}
        {reviews.data?.length === 0 && (
          <Empty title="Nothing is reviewed">
            A review goes through what a group, a role or a branch has been given: each is kept or ended, with
            a reason.
          </Empty>
        )}
        <ul className="min-h-0 flex-1 overflow-y-auto">
          {reviews.data?.map((row) => (
            <li key={row.id}>
              <button
                type="button"
                aria-current={row.id === open || undefined}
                onClick={() => navigate(`${here}/${row.id}`)}
                className={`block w-full border-b border-l-4 border-b-line px-[14px] py-2 text-left ${
                  row.id === open ? "border-l-brass bg-paper" : "border-l-transparent hover:bg-linen"
                }`}
              >
                <span className="block truncate text-read font-semibold">{row.name}</span>
                <span className="block truncate text-sm">{row.about}</span>
                <span className="figures block text-xs text-ink2">{stands(row)}</span>
              </button>
            </li>
          ))}
        </ul>
      </section>
      {open ? (
        <Page key={open} review={open} />
      ) : (
        reviews.data?.length !== 0 && <Empty title="No review is chosen">Choose one to go on with it.</Empty>
      )}
      <Dialog open={beginning} onClose={() => begin(false)} title="New review">
        {beginning && <NewReview onClose={() => begin(false)} />}
      </Dialog>
    </>
  );
}

/** "12 of 30 decided, until 3 Jan", or when it was closed. */
export function stands({ decided, items, due_at, closed_at }: Review): string {
  if (closed_at) return `closed on ${day(closed_at)}`;
  return `${decided} of ${items} decided, until ${day(due_at)}`;
}

function Page({ review }: { review: string }) {
  const page = useReview(review);
  const close = useCloseReview(review);
  const mayClose = useDuty("roles.assign");
  const [ending, endRest] = useState(false);
  if (page.error) return <ErrorNotice error={page.error} again={page.refetch} />;
  if (!page.data) return <Loading what="the review" />;
  const { review: row, items } = page.data;
  const left = row.items - row.decided;
  return (
    <section className="min-w-0 flex-1 overflow-y-auto px-[24px] pt-[30px] pb-8" aria-label={row.name}>
      <header className="flex items-start gap-3">
        <div className="min-w-0 flex-1">
          <h1>{row.name}</h1>
          <p className="text-ink2 first-letter:uppercase">{row.about}</p>
          <p className="figures text-sm text-ink2">
            {stands(row)}. Reviewed by {row.reviewers.join(", ")}. What nobody decides is{" "}
            {row.silent === "end" ? "ended" : "kept"}.
          </p>
        </div>
        <span className="flex gap-2 print:hidden">
          <a
            href={`/api/reviews/${review}/report`}
            className="rounded-[5px] border border-line2 bg-paper px-[11px] py-[5px] text-sm font-medium hover:bg-white"
          >
            As a table
          </a>
          <Button onClick={() => window.print()}>Print</Button>
          {mayClose && !row.closed_at && (
            <Button onClick={() => (left > 0 ? endRest(true) : close.mutate())} disabled={close.isPending}>
              {left > 0 ? `Close, ${left} undecided` : "Close"}
            </Button>
          )}
        </span>
      </header>
      <ErrorNotice error={close.error} />
      <Dialog open={ending} onClose={() => endRest(false)} title={`Close ${row.name}`}>
        <Undecided items={items} ends={row.silent === "end"} />
        {row.silent === "end" && <Foreseen of={["review", review]} ask={() => foreseen(review)} />}
        <DialogButtons>
          <Button onClick={() => endRest(false)}>Cancel</Button>
          <Button
            look="main"
            disabled={close.isPending}
            onClick={() => close.mutate(undefined, { onSettled: () => endRest(false) })}
          >
            Close it
          </Button>
        </DialogButtons>
      </Dialog>
      <ul className="mt-4">
        {items.map((item) => (
          <Line
            key={item.id}
            review={review}
            item={item}
            role={page.data.roles.find(({ key }) => key === item.role)}
            over={row.closed_at !== null}
          />
        ))}
      </ul>
    </section>
  );
}

const MOST_NAMED = 12;

/** What becomes of what nobody decided, told before the review is closed. */
function Undecided({ items, ends }: { items: ReviewItem[]; ends: boolean }) {
  const roles = useRoleMap();
  const left = items.filter(({ decision, there }) => decision === "" && there);
  return (
    <>
      <p className="text-sm">
        {left.length === 0
          ? "Nothing is left to decide."
          : `What nobody decided ${ends ? "ends with the review" : "stays as it is"}: ${count(left.length, "assignment")}.`}
      </p>
      <ul className="mt-1 max-h-[180px] overflow-y-auto text-sm text-ink2">
        {left.slice(0, MOST_NAMED).map(({ id, who, role, where }) => (
          <li key={id}>
            {who}: {roles.get(role)?.name ?? role}, {where}
          </li>
        ))}
        {left.length > MOST_NAMED && <li>and {left.length - MOST_NAMED} more</li>}
      </ul>
    </>
  );
}

type LineProps = { review: string; item: ReviewItem; role: RoleTag | undefined; over: boolean };

function Line({ review, item, role, over }: LineProps) {
  const decide = useDecide(review);
  const [reason, setReason] = useState(item.reason);
  const [ending, end] = useState(false);
  const problem = decide.error instanceof ProblemError ? decide.error : null;
  const open = !over && item.there && item.decision !== "end";
  return (
    <li className="grid min-h-[46px] grid-cols-[minmax(100px,1fr)_minmax(100px,1fr)_minmax(100px,1.2fr)_minmax(190px,1.6fr)] items-center gap-3 border-b border-line py-1.5 text-read">
      <span className="leading-tight">
        <strong className="block font-semibold first-letter:uppercase">{item.who}</strong>
        <span className="text-xs text-ink2">
          {item.account ? "" : "everyone in it, "}
          {item.last_used ? `last used ${day(item.last_used)}` : "no use noted"}
        </span>
      </span>
      <span>{role ? <RoleName role={role} /> : item.role}</span>
      <span className="leading-tight">
        {item.where}
        <span className="figures block text-xs text-ink2">
          {item.ends ? `until ${day(item.ends)}` : "no end"}
        </span>
      </span>
      {open ? (
        <span className="print:hidden">
          <span className="flex items-center gap-1.5">
            <input
              aria-label={`Why, for ${item.who}`}
              value={reason}
              maxLength={300}
              onChange={(event) => setReason(event.target.value)}
              placeholder="Why"
              className={INPUT}
            />
            <Button
              look={item.decision === "keep" ? "main" : "plain"}
              aria-pressed={item.decision === "keep"}
              disabled={decide.isPending}
              onClick={() => decide.mutate({ item: item.id, decision: "keep", reason })}
            >
              Keep
            </Button>
            <Button
              disabled={decide.isPending}
              onClick={() =>
                reason.trim() ? end(true) : decide.mutate({ item: item.id, decision: "end", reason })
              }
            >
              End
            </Button>
          </span>
          <Dialog open={ending} onClose={() => end(false)} title={`End what ${item.who} has`}>
            <p className="text-sm">
              {role?.name ?? item.role}, {item.where}: {reason}
            </p>
            <Foreseen of={["review", review, item.id]} ask={() => foreseen(review, item.id)} />
            <DialogButtons>
              <Button onClick={() => end(false)}>Cancel</Button>
              <Button
                look="main"
                disabled={decide.isPending}
                onClick={() =>
                  decide.mutate({ item: item.id, decision: "end", reason }, { onSettled: () => end(false) })
                }
              >
                End it
              </Button>
            </DialogButtons>
          </Dialog>
          {problem && (
            <span role="alert" className="text-xs text-bar">
              {problem.at("/reason") ?? problem.problem.detail}
            </span>
          )}
        </span>
      ) : (
        <span className="leading-tight">
          <strong>{item.decision === "end" || !item.there ? "Ended" : "Kept"}</strong>
          {item.decided_by ? ` by ${item.decided_by}` : ""}
          {item.reason && <span className="block text-xs text-ink2">{item.reason}</span>}
        </span>
      )}
    </li>
  );
}
