// The frame of every place: crossbar, strip while standing in, the place itself, the tray.
import { useQuery } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { useState } from "react";
import { Link, Navigate, Outlet, useLocation } from "react-router";
import { answer, api, ProblemError, type Shapes } from "../api/client";
import { Crossbar, type Hanging } from "../cloth/Crossbar";
import { AskAccess } from "../shared/AskAccess";
import { Tray } from "../shared/changes/Tray";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { keys } from "../shared/keys";
import { Menu, MenuItem } from "../shared/Menu";
import { type Session, useSession, useSignOut } from "../shared/session";
import { count } from "../shared/time";
import { anyTyped } from "../shared/typed";
import { Button, ErrorNotice, Loading } from "../shared/ui";
import { useXray } from "../shared/useXray";
import { Find } from "./Find";
import { Keys } from "./Keys";
import { ProveAgain } from "./ProveAgain";
import { RehearsalTray } from "./RehearsalTray";
import { Strip } from "./Strip";
import { XrayPlaces } from "./XrayPlaces";

export function Shell() {
  const session = useSession();
  const location = useLocation();
  const [xray] = useXray();
  const begun = useQuery({
    queryKey: keys.begun,
    queryFn: () => answer(api.GET("/api/begin")),
    enabled: Boolean(session.data?.subject?.keyholder),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (session.error instanceof ProblemError)
    return <ErrorNotice error={session.error} again={session.refetch} />;
  if (!session.data) return <Loading what="your session" />;
  if (!session.data.actor) {
    return <Navigate to={`/sign-in?to=${encodeURIComponent(location.pathname + location.search)}`} replace />;
  }
  if (begun.data?.begun === false && location.pathname !== "/begin") return <Navigate to="/begin" replace />;
  const place = location.pathname.split("/")[1] ?? "";
  const rehearses = session.data.standing_in?.mode === "rehearse";
  return (
    <Tooltip.Provider delayDuration={350}>
      <div className="flex h-full flex-col">
        <Top session={session.data} />
        {session.data.standing_in && <Strip session={session.data} />}
        {xray && <XrayPlaces />}
        <main className="flex min-h-0 flex-1">
          {PLACES.includes(place) && !session.data.places.includes(place) ? (
            <Closed session={session.data} place={place} />
          ) : (
            <Outlet />
          )}
        </main>
        {rehearses && <RehearsalTray />}
        {(!session.data.standing_in || rehearses) && <Tray />}
        <Keys />
        <ProveAgain />
      </div>
    </Tooltip.Provider>
  );
}

function Top({ session }: { session: Session }) {
  const figures = useQuery({ queryKey: keys.crossbar, queryFn: () => answer(api.GET("/api/crossbar")) });
  return (
    <Crossbar
      places={hangings(session, figures.data)}
      more={others(session)}
      flat={Boolean(session.standing_in)}
    >
      <Find session={session} />
      <Person session={session} />
    </Crossbar>
  );
}

type Figures = Shapes["CrossbarShape"];

function hangings({ places }: Session, f: Figures | undefined): Hanging[] {
  const all: Hanging[] = [
    { to: "/define", name: "Define", note: f?.roles == null ? undefined : count(f.roles, "role") },
    { to: "/assign", name: "Assign", note: f?.accounts == null ? undefined : count(f.accounts, "account") },
    { to: "/limit", name: "Limit", note: f?.limits == null ? undefined : count(f.limits, "limit") },
    {
      to: "/verify",
      name: "Verify",
      note: f?.expectations == null ? undefined : `${f.holding} / ${f.expectations} hold`,
    },
  ];
  return all.filter(({ to }) => places.includes(to.slice(1)));
}

function others({ places }: Session): Hanging[] {
  return [
    { to: "/desk", name: "Desk" },
    { to: "/hand-out", name: "Hand out" },
    { to: "/reviews", name: "Reviews" },
    { to: "/ledger", name: "Ledger" },
  ].filter(({ to }) => places.includes(to.slice(1)));
}

function Person({ session }: { session: Session }) {
  const signOut = useSignOut();
  const [asking, ask] = useState(false);
  return (
    <>
      <Menu
        label={session.actor?.email}
        trigger={
          <button
            type="button"
            className="rounded px-2 py-1 text-sm font-medium whitespace-nowrap text-[#efe9f6] hover:bg-rod2 max-[760px]:max-w-[96px] max-[760px]:shrink-0 max-[760px]:truncate"
          >
            {session.subject?.name}
          </button>
        }
      >
        {!session.standing_in && (
          <MenuItem asChild>
            <Link to="/me">Your account</Link>
          </MenuItem>
        )}
        <MenuItem asChild>
          <a href="/site/">Public site</a>
        </MenuItem>
        <MenuItem onSelect={() => (anyTyped() ? ask(true) : signOut.mutate())}>Sign out</MenuItem>
      </Menu>
      <Dialog open={asking} onClose={() => ask(false)} title="Sign out without saving?">
        <p className="text-ink2">What you typed on the desk and did not save would be lost.</p>
        <DialogButtons>
          <Button onClick={() => signOut.mutate()}>Sign out</Button>
          <Button look="main" onClick={() => ask(false)}>
            Stay here
          </Button>
        </DialogButtons>
      </Dialog>
    </>
  );
}

/** What one asks for where a place is closed. */
const OPENS: Record<string, string> = {
  define: "roles.define",
  assign: "roster.see",
  limit: "limits.set",
  verify: "expectations.keep",
  desk: "desk.open",
  ledger: "ledger.read",
};
const PLACES = ["define", "assign", "limit", "verify", "desk", "ledger"];

/** A place that is there, but not open to whoever looks. */
function Closed({ session, place }: { session: Session; place: string }) {
  const name = place.charAt(0).toUpperCase() + place.slice(1);
  const [asking, ask] = useState(false);
  const who = session.standing_in ? (session.subject?.name ?? "this account") : "you";
  if (session.places.length > 0 && !session.standing_in)
    return <Navigate to={`/${session.places[0]}`} replace />;
  return (
    <div className="m-auto max-w-[420px] p-6 text-center">
      <h1>
        {name} is closed to {who}
      </h1>
      <p className="mt-2 text-ink2">No role given to this account opens it.</p>
      {!session.standing_in && (
        <>
          <Button className="mt-3" onClick={() => ask(true)}>
            Ask for it
          </Button>
          <AskAccess
            asked={asking ? { action: OPENS[place] ?? "desk.open" } : null}
            words={`open ${name}`}
            onClose={() => ask(false)}
          />
        </>
      )}
    </div>
  );
}
