// The hatched strip while standing in: for whom, in which mode, for how long, and the way out.
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { RoleCloth } from "../cloth/RoleCloth";
import { type Session, useGoOn, useStepOut } from "../shared/session";
import { useRehearsal } from "../shared/standin/useRehearsal";
import { clock, count, day } from "../shared/time";
import { Button } from "../shared/ui";
import { useXray } from "../shared/useXray";
import { ModeSwitch } from "./ModeSwitch";
import { type Expected, RecordExpectation } from "./RecordExpectation";

export function Strip({ session }: { session: Session }) {
  const stepOut = useStepOut();
  const goOn = useGoOn();
  const [xray, setXray] = useXray();
  const [recording, record] = useState(false);
  const node = useParams().node ?? "";
  const { standing_in, subject, actor } = session;
  if (!standing_in || !subject) return null;
  const oneself = subject.id === actor?.id;
  const expected = expectedOf(subject);
  return (
    <section
      aria-label="Standing in"
      className="hatched-dark z-10 flex h-[46px] shrink-0 items-center gap-3 border-b-2 border-brass px-[18px]"
    >
      <span className="flex gap-1.5">
        {subject.roles.map((role) => (
          <RoleCloth key={role.key} cloth={role.cloth} size={17} />
        ))}
      </span>
      <p className="min-w-0 truncate text-read">{oneself ? "Rehearsing as yourself" : whoWords(session)}</p>
      <ModeSwitch session={session} />
      {(standing_in.staged || standing_in.at) && (
        <span className="shrink-0 rounded border border-[#8f6620] bg-paper px-2.5 py-[3px] text-note font-medium whitespace-nowrap">
          {standing_in.staged && "with what is staged"}
          {standing_in.staged && standing_in.at && ", "}
          {standing_in.at && `as of ${day(standing_in.at)} ${clock(standing_in.at)}`}
        </span>
      )}
      <span className="figures min-w-0 truncate text-sm text-[#5f4512]">
        {standing_in.mode === "rehearse" ? <Done /> : "nothing can be changed, "}
        <Remaining until={standing_in.until} onOver={() => stepOut.mutate(standing_in.came_from)} />
      </span>
      <Button
        look="quiet"
        className="px-1!"
        title="Thirty minutes from now"
        disabled={goOn.isPending}
        onClick={() => goOn.mutate(undefined)}
      >
        Longer
      </Button>
      <span className="flex-1" />
      <Button look={xray ? "main" : "plain"} aria-pressed={xray} onClick={() => setXray(!xray)}>
        X-ray
      </Button>
      <BesideLink session={session} node={node} />
      <Button className="whitespace-nowrap" onClick={() => record(true)} disabled={!node}>
        Expect this
      </Button>
      <Button
        look="main"
        className="whitespace-nowrap"
        onClick={() => stepOut.mutate(standing_in.came_from)}
        disabled={stepOut.isPending}
      >
        Step out
      </Button>
      {node && (
        <RecordExpectation
          open={recording}
          onClose={() => record(false)}
          node={node}
          of={expected}
          name={"holders_of" in expected ? `Holders of ${subject.name}` : subject.name}
        />
      )}
    </section>
  );
}

/** Whom one stands in for beside oneself, on the page at hand. */
function BesideLink({ session: { subject, actor, standing_in }, node }: { session: Session; node: string }) {
  if (!subject || !actor || subject.id === actor.id) return null;
  const more = [
    subject.own ? ";own" : "",
    standing_in?.staged ? ";staged" : "",
    standing_in?.at ? `;at=${standing_in.at}` : "",
  ];
  const params = new URLSearchParams(node ? { node } : {});
  params.append("side", sideOf(subject) + more.join(""));
  params.append("side", `account:${actor.id}`);
  return (
    <Link
      to={`/side-by-side?${params}`}
      className="rounded border border-line2 bg-paper px-[11px] py-[5px] text-sm font-semibold whitespace-nowrap hover:bg-linen2"
    >
      Side by side
    </Link>
  );
}

/** Of whom an expectation is kept: of somebody made up who holds one role alone, of all its holders. */
function expectedOf({ whose, name, roles, asked_as }: NonNullable<Session["subject"]>): Expected {
  const [role, ...others] = roles;
  const alone = whose === "roles" && role && others.length === 0 && role.name === name;
  return alone ? { holders_of: role.key } : (asked_as as Expected);
}

function sideOf({ id, whose, roles }: NonNullable<Session["subject"]>): string {
  if (whose === "visitor") return "visitor";
  return id ? `account:${id}` : `roles:${roles.map(({ key }) => key).join(",")}`;
}

function whoWords({ subject, standing_in }: Session) {
  if (!subject) return null;
  const doing = standing_in?.mode === "rehearse" ? "Rehearsing as" : "Standing in for";
  const roles = subject.whose === "account" ? subject.roles.map(({ name }) => name).join(", ") : "";
  return (
    <>
      {doing} <strong>{subject.whose === "visitor" ? "a visitor" : subject.name}</strong>
      {roles && `: ${roles}`}
      {subject.whose === "roles" && `, author of ${subject.own ? "everything" : "nothing"}`}
    </>
  );
}

/** How much was done in the rehearsal. */
function Done() {
  const done = useRehearsal().data?.steps.filter(({ refused }) => !refused).length ?? 0;
  return <>{count(done, "step")} done, nothing is kept, </>;
}

function Remaining({ until, onOver }: { until: string; onOver: () => void }) {
  const [now, tick] = useState(Date.now());
  useEffect(() => {
    const timer = setInterval(() => tick(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  const left = Math.max(0, Math.floor((new Date(until).getTime() - now) / 1000));
  const over = left === 0;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when time is up
  useEffect(() => {
    if (over) onOver();
  }, [over]);
  return (
    <>
      {Math.floor(left / 60)}:{String(left % 60).padStart(2, "0")} left
    </>
  );
}
