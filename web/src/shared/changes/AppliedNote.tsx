// What was just applied, with the way back.
import { ProblemError } from "../../api/client";
import { Button } from "../ui";
import { useUndoApplied } from "./changeSet";
import type { Applied } from "./Review";

type NoteProps = { applied: Applied; onDone: (said: string) => void };

export function AppliedNote({ applied, onDone }: NoteProps) {
  const undo = useUndoApplied();
  return (
    <section
      aria-label="Just applied"
      className="z-30 flex min-h-[44px] shrink-0 items-center gap-3 border-t border-line bg-paper px-[20px] py-1.5 text-sm"
    >
      <span>
        <strong>Applied.</strong> {applied.summary}
      </span>
      <UndoTrouble error={undo.error} />
      <span className="flex-1" />
      <Button
        disabled={undo.isPending}
        onClick={() => undo.mutate(applied.id, { onSuccess: (undone) => onDone(undone.summary) })}
      >
        Undo
      </Button>
      <Button look="quiet" onClick={() => onDone("")}>
        Close
      </Button>
    </section>
  );
}

/** Why something cannot be undone, and what was built on it. */
export function UndoTrouble({ error }: { error: unknown }) {
  if (!(error instanceof ProblemError)) return null;
  const builtOn = error.problem.built_on ?? [];
  return (
    <span role="alert" className="text-bar">
      {error.problem.detail} {builtOn.join("; ")}
    </span>
  );
}
