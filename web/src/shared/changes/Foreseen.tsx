// What something comes to, told before it counts: who would gain and lose, and what would break.
import { useQuery } from "@tanstack/react-query";
import { ProblemError, type Shapes } from "../../api/client";
import { keys } from "../keys";
import { count } from "../time";

type Breaking = Shapes["BreakingShape"];

/** `of` is what it is asked of, and `ask` asks the server; nothing is written. */
export function Foreseen({ of, ask }: { of: readonly unknown[]; ask: () => Promise<Breaking> }) {
  const told = useQuery({ queryKey: keys.foreseen(of), queryFn: ask, retry: false, staleTime: 0 });
  if (told.error instanceof ProblemError)
    return (
      <p role="status" className="my-2 text-sm text-bar">
        {told.error.problem.detail}
      </p>
    );
  return told.data ? (
    <ForeseenWords told={told.data} />
  ) : (
    <p role="status" className="my-2 text-sm text-ink2">
      Working out what it comes to…
    </p>
  );
}

export function ForeseenWords({ told }: { told: Breaking }) {
  const { gain, lose, breaks } = told;
  if (gain === null && breaks === null) return null;
  const who = [
    lose ? `${count(lose, "account")} would lose something` : "",
    gain ? `${count(gain, "account")} would gain something` : "",
  ].filter(Boolean);
  return (
    <div role="status" className="my-2 rounded border-l-[3px] border-brass bg-warm px-3 py-1.5 text-sm">
      {gain !== null && <p>{who.join(", ") || "Nobody would gain or lose anything"}.</p>}
      {breaks !== null && breaks.length === 0 && <p className="text-ink2">No expectation would break.</p>}
      {breaks && breaks.length > 0 && (
        <ul aria-label="Expectations that would break" className="text-bar">
          {breaks.map((sentence) => (
            <li key={sentence}>Breaks: {sentence}</li>
          ))}
        </ul>
      )}
    </div>
  );
}
