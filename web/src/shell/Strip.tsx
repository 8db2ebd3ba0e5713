// The hatched strip while standing in: for whom, in which mode, for how long, and the way out.
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { RoleCloth } from "../cloth/RoleCloth";
import { type Session, useLookOn, useStepOut } from "../shared/session";
import { clock, day } from "../shared/time";
import { Button } from "../shared/ui";
import { useXray } from "../shared/useXray";
import { RecordExpectation } from "./RecordExpectation";

export function Strip({ session }: { session: Session }) {
  const stepOut = useStepOut();
  const lookOn = useLookOn();
  const [xray, setXray] = useXray();
  const [recording, record] = useState(false);
  const node = useParams().node ?? "";
  const { standing_in, subject } = session;
  if (!standing_in || !subject) return null;
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
      <p className="min-w-0 truncate text-read">
        Standing in for <strong>{subject.name}</strong>
        {subject.roles.length > 0 && `: ${subject.roles.map((role) => role.name).join(", ")}`}
      </p>
      <span className="rounded border border-[#8f6620] bg-paper px-2.5 py-[3px] text-note font-medium whitespace-nowrap">
        {standing_in.staged ? "Look only, with what is staged" : "Look only"}
        {standing_in.at && `, as of ${day(standing_in.at)} ${clock(standing_in.at)}`}
      </span>
      <Remaining until={standing_in.until} onOver={() => stepOut.mutate(standing_in.came_from)} />
      <Button
        look="quiet"
        className="px-1!"
        title="Thirty minutes from now"
        disabled={lookOn.isPending}
        onClick={() => lookOn.mutate()}
      >
        Longer
      </Button>
      <span className="flex-1" />
      <Button look={xray ? "main" : "plain"} aria-pressed={xray} onClick={() => setXray(!xray)}>
        X-ray
      </Button>
      <Button onClick={() => record(true)} disabled={!node}>
        Record expectation
      </Button>
      <Button look="main" onClick={() => stepOut.mutate(standing_in.came_from)} disabled={stepOut.isPending}>
        Step out
      </Button>
      <RecordExpectation open={recording} onClose={() => record(false)} node={node} subject={subject} />
    </section>
  );
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
    <span className="figures text-sm whitespace-nowrap text-[#5f4512]">
      nothing can be changed, {Math.floor(left / 60)}:{String(left % 60).padStart(2, "0")} left
    </span>
  );
}
