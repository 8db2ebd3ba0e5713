// One change that would turn an answer: its sentence, what else it does and breaks, and a button that makes it.
import type { ReactNode } from "react";
import { RoleCloth } from "../../cloth/RoleCloth";
import { useSession } from "../session";
import { count } from "../time";
import { type Turn, useOperationsPreview } from "./useTurns";

const MOST_WORDS = 5;

type Preview = NonNullable<ReturnType<typeof useOperationsPreview>["data"]>;

export function TurnLine({ turn, children }: { turn: Turn; children: ReactNode }) {
  const standing = Boolean(useSession().data?.standing_in);
  const preview = useOperationsPreview(turn.operations, turn.allowed && !standing);
  const breaks = preview.data?.breaks ?? [];
  return (
    <li className="flex items-start gap-4 border-b border-line py-3">
      <div className="min-w-0 flex-1">
        <p className="flex items-start gap-2 text-read font-semibold">
          {turn.role && (
            <span className="mt-0.5">
              <RoleCloth cloth={turn.role.cloth} size={15} />
            </span>
          )}
          <span className="min-w-0">{turn.sentence}</span>
        </p>
        {standing ? null : turn.allowed ? (
          <p role="status" className="mt-0.5 text-xs text-ink2">
            {preview.data ? touches(preview.data) : preview.error ? "" : "Working out what else it does…"}
          </p>
        ) : (
          <p className="mt-0.5 text-xs text-ink2">That is for those who have the duty.</p>
        )}
        {breaks.length > 0 && (
          <ul aria-label="Expectations that would break" className="mt-1 text-xs text-bar">
            {breaks.map((sentence) => (
              <li key={sentence}>Breaks: {sentence}</li>
            ))}
          </ul>
        )}
      </div>
      {children}
    </li>
  );
}

/** "1 account gains: edit sections, at 1 page; and more." */
function touches({ gain, lose, turns, visitors_gain }: Preview): string {
  const who = [
    gain ? `${count(gain, "account")} gain${gain === 1 ? "s" : ""}` : null,
    lose ? `${count(lose, "account")} lose${lose === 1 ? "s" : ""}` : null,
    visitors_gain ? "visitors gain" : null,
  ].filter(Boolean);
  const what = turns
    .slice(0, MOST_WORDS)
    .map(({ words, most_gained }) =>
      most_gained && most_gained > 1 ? `${words} (${most_gained} pages)` : words,
    );
  const more = turns.length > MOST_WORDS ? `, and ${turns.length - MOST_WORDS} more` : "";
  return [who.join(", "), what.length > 0 && `${what.join(", ")}${more}`].filter(Boolean).join(": ");
}
