// Across the bottom while one rehearses: what was done and what was refused, each step to be taken back alone.
import { staysSo, useExpectThis } from "../shared/expectations/useExpectations";
import { type Step, useRehearsal, useTakeStepBack } from "../shared/standin/useRehearsal";
import { ErrorNotice } from "../shared/ui";

export function RehearsalTray() {
  const rehearsal = useRehearsal();
  const takeBack = useTakeStepBack();
  const { steps = [], most = 0 } = rehearsal.data ?? {};
  if (rehearsal.error) return <ErrorNotice error={rehearsal.error} again={rehearsal.refetch} />;
  if (steps.length === 0) return null;
  return (
    <section
      aria-label="What was done here"
      className="z-20 max-h-[168px] shrink-0 overflow-y-auto border-t border-[#c28f2c] bg-[#fbf2df] px-[20px] py-2.5"
    >
      <h2 className="mb-1.5 text-read">
        What was done here, and is not kept
        {steps.length >= most && <span className="font-normal"> – no more than {most} steps fit</span>}
      </h2>
      <ErrorNotice error={takeBack.error} />
      <ul className="flex flex-wrap gap-1.5">
        {steps.map((step) => (
          <li key={step.n}>
            <StepChip step={step} busy={takeBack.isPending} onTakeBack={() => takeBack.mutate(step.n)} />
          </li>
        ))}
      </ul>
    </section>
  );
}

function StepChip({ step, busy, onTakeBack }: { step: Step; busy: boolean; onTakeBack: () => void }) {
  const words = stepWords(step);
  const wrong = step.refused ?? step.fails;
  return (
    <span
      data-step={step.n}
      title={wrong?.detail}
      className={`inline-flex max-w-[560px] items-center gap-1.5 rounded-full border bg-paper py-[2px] pr-1 pl-2.5 text-note ${wrong ? "border-bar text-bar" : "border-line2 text-ink2"}`}
    >
      <span className="truncate">{words}</span>
      {step.refused?.question && <ExpectRefusal question={step.refused.question} words={words} />}
      <button
        type="button"
        disabled={busy}
        aria-label={step.refused ? `Forget: ${words}` : `Take back: ${words}`}
        onClick={onTakeBack}
        className="size-[20px] rounded-full hover:bg-chosen"
      >
        ×
      </button>
    </span>
  );
}

/** What was refused, kept as what must stay so. */
function ExpectRefusal({ question, words }: { question: Record<string, unknown>; words: string }) {
  const record = useExpectThis();
  return (
    <button
      type="button"
      disabled={record.isPending || record.isSuccess}
      aria-label={`Expect that it stays so: ${words}`}
      title={record.error ? String(record.error) : "Kept among the expectations: it must stay refused"}
      onClick={() => record.mutate(staysSo(question, false))}
      className="shrink-0 rounded-full border border-line2 px-1.5 text-ink hover:bg-chosen disabled:opacity-60"
    >
      {record.isSuccess ? "expected" : record.error ? "not kept" : "Expect it"}
    </button>
  );
}

function stepWords({ said, refused, fails, method, path }: Step): string {
  if (refused) return `Refused${said[0] ? ` on ${said[0]}` : ""}: ${refused.detail}`;
  const done = said.join("; ") || `${method} ${path.replace("/api/", "")}`;
  return fails ? `${done} – cannot be done any more: ${fails.detail}` : done;
}
