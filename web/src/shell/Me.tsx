// One's own account: who one is, one's password, and where one is signed in.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, answerWithTag, api, ProblemError, type Shapes } from "../api/client";
import { CutPortrait } from "../shared/CutPortrait";
import { keys } from "../shared/keys";
import { Portrait } from "../shared/Portrait";
import { queryClient } from "../shared/query";
import { useSession } from "../shared/session";
import { clock, day } from "../shared/time";
import { Button, Empty, ErrorNotice, Loading } from "../shared/ui";
import { useChangeMe, WhoFields, whoOf } from "../shared/who";
import { ChangePassword } from "./ChangePassword";
import { Factors } from "./Factors";
import { Go } from "./Go";

export function Me() {
  const session = useSession().data;
  if (!session) return <Loading what="your account" />;
  if (session.standing_in)
    return (
      <Empty title="This is about your own account" heading>
        Step out first.
      </Empty>
    );
  return <Own />;
}

function Own() {
  const me = useQuery({ queryKey: keys.me, queryFn: () => answerWithTag(api.GET("/api/me")) });
  if (me.error) return <ErrorNotice error={me.error} again={me.refetch} />;
  if (!me.data) return <Loading what="your account" />;
  return (
    <section aria-label="Your account" className="min-w-0 flex-1 overflow-y-auto px-8 pt-[30px] pb-10">
      <h1>Your account</h1>
      <div className="mt-4 grid max-w-[980px] grid-cols-2 gap-x-12 max-[1100px]:grid-cols-1">
        <Who key={me.data.tag} me={me.data.data} tag={me.data.tag} />
        <div>
          <Password />
          <Factors />
        </div>
      </div>
      <Requests />
      <Sessions />
      <StoodIn />
      {me.data.data.may_go && <Go />}
    </section>
  );
}

function Who({ me, tag }: { me: Shapes["MeShape"]; tag: string }) {
  const [who, setWho] = useState(whoOf(me));
  const [portrait, cut] = useState(false);
  const change = useChangeMe(tag);
  const problem = change.error instanceof ProblemError ? change.error : null;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate(who);
      }}
      noValidate
      aria-label="Who you are"
    >
      <h2 className="mb-2">Who you are</h2>
      <div className="mb-3 flex items-center gap-3">
        <Portrait name={me.name} picture={me.portrait} />
        <Button onClick={() => cut(true)}>{me.portrait ? "Another portrait" : "Add a portrait"}</Button>
      </div>
      <CutPortrait open={portrait} onClose={() => cut(false)} account={me.id} portrait={me.portrait} />
      {me.new_address && <NewAddress waiting={me.new_address} />}
      <WhoFields who={who} onChange={setWho} profile={me.profile} problem={problem} />
      <Button type="submit" disabled={change.isPending}>
        Save
      </Button>
      <span role="status" className="ml-3 text-sm text-ink2">
        {change.isSuccess ? (who.email === me.email ? "Saved." : `Look at the mail of ${who.email}.`) : ""}
      </span>
    </form>
  );
}

function Password() {
  return (
    <>
      <h2 className="mb-2">Your password</h2>
      <ChangePassword
        now="Password you have now"
        button="Change it"
        done="Changed. Everywhere else you are signed out."
        onDone={() => queryClient.invalidateQueries({ queryKey: keys.ownSessions })}
      />
    </>
  );
}

/** An address that waits to be confirmed: who asked for it, and taking it back. */
function NewAddress({ waiting }: { waiting: Shapes["NewAddressShape"] }) {
  const letGo = useMutation({
    mutationFn: () => answer(api.DELETE("/api/me/new-address")),
    onSettled: () => queryClient.invalidateQueries({ queryKey: keys.me }),
  });
  return (
    <div className="mb-3 rounded border border-line p-3 text-sm">
      <p>
        <b className="font-semibold">{waiting.email}</b> waits to be confirmed.{" "}
        {waiting.asked_by ? `${waiting.asked_by} asked for it.` : "You asked for it."} Until then the address
        you have stays.
      </p>
      <Button className="mt-2" onClick={() => letGo.mutate()} disabled={letGo.isPending}>
        Take it back
      </Button>
      <ErrorNotice error={letGo.error} />
    </div>
  );
}

/** What one asked for, and what came of it. */
function Requests() {
  const requests = useQuery({
    queryKey: keys.ownRequests,
    queryFn: () => answer(api.GET("/api/me/requests")),
  });
  if (!requests.data || requests.data.length === 0) return null;
  return (
    <div className="mt-8 max-w-[980px]">
      <h2 className="mb-1">What you asked for</h2>
      <ul>
        {requests.data.map((row) => (
          <li key={row.id} className="flex min-h-[38px] items-center gap-3 border-b border-line text-read">
            <span className="font-semibold first-letter:uppercase">{row.what}</span>
            <span className="flex-1 text-sm text-ink2">{row.answer}</span>
            <span className="text-xs text-ink2">
              {row.state === "open" ? `asked on ${day(row.asked_at)}` : row.state}
              {row.until ? ` until ${day(row.until)}` : ""}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Who stood in for one, and when. */
function StoodIn() {
  const stood = useQuery({
    queryKey: keys.stoodIn,
    queryFn: () => answer(api.GET("/api/me/stood-in", { params: { query: { limit: 20 } } })),
  });
  return (
    <div className="mt-8 max-w-[980px]">
      <h2 className="mb-1">Who stood in for you</h2>
      <ErrorNotice error={stood.error} />
      {stood.data?.length === 0 && <p className="text-sm text-ink2">Nobody did.</p>}
      <ul>
        {stood.data?.map(({ by, at, staged, rehearsed }) => (
          <li key={at} className="flex min-h-[38px] items-center gap-3 border-b border-line text-read">
            <span className="font-semibold">{by}</span>
            <span className="text-xs text-ink2">
              {day(at)} at {clock(at)}, {rehearsed ? "to rehearse, of which nothing is kept" : "to look only"}
              {staged ? ", with changes not applied yet" : ""}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}

function Sessions() {
  const sessions = useQuery({
    queryKey: keys.ownSessions,
    queryFn: () => answer(api.GET("/api/me/sessions")),
  });
  const changed = () => queryClient.invalidateQueries({ queryKey: keys.ownSessions });
  const end = useMutation({
    mutationFn: (session: string) =>
      answer(api.DELETE("/api/me/sessions/{session}", { params: { path: { session } } })),
    onSettled: changed,
  });
  const endOthers = useMutation({
    mutationFn: () => answer(api.DELETE("/api/me/sessions")),
    onSettled: changed,
  });
  const rows = sessions.data ?? [];
  return (
    <div className="mt-8 max-w-[980px]">
      <div className="mb-1 flex items-baseline gap-3">
        <h2>Where you are signed in</h2>
        <span className="flex-1" />
        {rows.length > 1 && (
          <Button onClick={() => endOthers.mutate()} disabled={endOthers.isPending}>
            Sign out everywhere else
          </Button>
        )}
      </div>
      <ErrorNotice error={sessions.error ?? end.error ?? endOthers.error} />
      <ul>
        {rows.map((row) => (
          <li key={row.id} className="flex min-h-[38px] items-center gap-3 border-b border-line text-read">
            <span className="font-semibold">{row.device}</span>
            <span className="text-xs text-ink2">{row.client}</span>
            <span className="flex-1 text-xs text-ink2">
              since {day(row.began_at)}, last used {day(row.used_at)} at {clock(row.used_at)}
            </span>
            {row.here ? (
              <span className="text-xs text-ink2">this one</span>
            ) : (
              <Button look="quiet" aria-label={`Sign out ${row.device}`} onClick={() => end.mutate(row.id)}>
                Sign out
              </Button>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}
