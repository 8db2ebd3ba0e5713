// What they will be able to do once they come, and what is to be minded: told before anything is sent.
import { useWatch } from "react-hook-form";
import { UNTOLD, wholeAndParts } from "../../shared/changes/impactText";
import { count } from "../../shared/time";
import { ErrorNotice } from "../../shared/ui";
import { type Asked, useWillBeAble } from "./useTakeOn";

const MOST = 12;

export function WillBeAble() {
  const [people, groups, roles] = useWatch<Asked, ["people", "groups", "roles"]>({
    name: ["people", "groups", "roles"],
  });
  const foreseen = useWillBeAble({ groups, roles });
  const told = foreseen.data;
  return (
    <section aria-label="What they will be able to do" aria-busy={foreseen.isFetching}>
      <h2 className="mb-1">
        {people.length === 1 ? "They will be able to" : `Each of the ${people.length} will be able to`}
      </h2>
      {foreseen.error && <ErrorNotice error={foreseen.error} again={foreseen.refetch} />}
      {told && told.gain === null && <p className="text-sm text-ink2 first-letter:uppercase">{UNTOLD}.</p>}
      {told?.gain === 0 && (
        <p className="text-sm text-ink2">do what everybody may. Groups and roles give more.</p>
      )}
      {told && <Turns turns={told.turns} />}
      {told && told.turns.length > 0 && (
        <p className="mt-1 text-xs text-ink2">
          Counted over the pages of today: what they make themselves comes on top.
        </p>
      )}
      {told?.risks.map(({ role, what, why }) => (
        <p key={`${role} ${what}`} className="mt-2 border-l-[3px] border-brass bg-warm px-3 py-1.5 text-sm">
          Risky: {what}. <span className="text-ink2">{why}</span>
        </p>
      ))}
      {told?.breaks && told.breaks.length > 0 && (
        <ul aria-label="Expectations that would break" className="mt-2 text-sm text-bar">
          {told.breaks.map((sentence) => (
            <li key={sentence}>Breaks: {sentence}</li>
          ))}
        </ul>
      )}
    </section>
  );
}

type Turn = NonNullable<ReturnType<typeof useWillBeAble>["data"]>["turns"][number];

function Turns({ turns }: { turns: Turn[] }) {
  const [whole, parts] = wholeAndParts(turns);
  const more = Math.max(0, whole.length - MOST) + parts.length;
  return (
    <>
      <ul aria-live="polite">
        {whole.slice(0, MOST).map((turn) => (
          <li key={turn.key} className="flex justify-between gap-3 border-b border-linen2 py-0.5 text-sm">
            <span className="first-letter:uppercase">{turn.words}</span>
            {turn.places && turn.most_gained !== null && (
              <span className="figures text-ink2">
                {turn.pages ? count(turn.most_gained, "page") : count(turn.most_gained, "place")}
              </span>
            )}
          </li>
        ))}
      </ul>
      {more > 0 && <p className="mt-1 text-xs text-ink2">and {count(more, "thing", "things")} more</p>}
    </>
  );
}
