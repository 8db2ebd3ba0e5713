// The smallest changes that would make a no a yes, or a yes a no, each staged by one click.
import { useMayStage, useStage } from "../changes/changeSet";
import { useSession } from "../session";
import { Button, ErrorNotice, Loading } from "../ui";
import type { WhyQuestion } from "../Why";
import { TurnLine } from "./TurnLine";
import { type Turn, useTurns } from "./useTurns";

export function Turns({ question }: { question: WhyQuestion }) {
  const turns = useTurns(question, true);
  if (turns.error) return <ErrorNotice error={turns.error} again={turns.refetch} />;
  if (!turns.data) return <Loading what="what would turn it" />;
  const { allow, reason, changes } = turns.data;
  const other = allow ? "no" : "yes";
  return (
    <section aria-label={`What would make it ${other}`} className="mt-6">
      <h2>The smallest changes that would make it {other}</h2>
      {changes.length === 0 ? (
        <p className="mt-1 text-sm text-ink2">{NONE[reason] ?? "Nothing small does."}</p>
      ) : (
        <>
          <p className="mt-0.5 text-xs text-ink2">Those that reach least for others come first.</p>
          <ul>
            {changes.map((turn, at) => (
              <TurnLine key={turn.sentence} turn={turn}>
                <StageIt turn={turn} first={at === 0} />
              </TurnLine>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

const NONE: Record<string, string> = {
  allowed:
    "Nothing small does: a keyholder may do everything, and what everybody is given ends for everybody.",
  barred: "It is barred, and a bar is never worked around. Lift what bars it first.",
  inactive: "The account is not active. Enable it first.",
  beyond: "They may do things that whoever would stand in may not.",
};

function StageIt({ turn, first }: { turn: Turn; first: boolean }) {
  const stage = useStage();
  const standing = useSession().data?.standing_in;
  const may = useMayStage();
  if (standing || !may) return null;
  return (
    <span className="shrink-0 text-right">
      <Button
        look={first ? "main" : "plain"}
        disabled={!turn.allowed || stage.isPending || stage.isSuccess}
        onClick={() => stage.mutate(turn.operations)}
      >
        {stage.isSuccess ? "Staged" : "Stage it"}
      </Button>
      <ErrorNotice error={stage.error} />
    </span>
  );
}
