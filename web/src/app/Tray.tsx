// The tray across the bottom of every place while something is staged.
import { useEffect, useState } from "react";
import { useApply, useChangeSet, useDiscard, useImpact, useUndoLast, useUnstage } from "./changeSet";
import { Dialog, DialogButtons } from "./Dialog";
import { count } from "./time";
import { Button, Trouble } from "./ui";

export function Tray() {
  const changeSet = useChangeSet();
  const operations = changeSet.data?.operations ?? [];
  const impact = useImpact();
  const discard = useDiscard();
  const undo = useUndoLast();
  const [reviewing, review] = useState(false);
  const [said, say] = useState("");
  const any = operations.length > 0;

  useEffect(() => {
    function key(event: KeyboardEvent) {
      const typing = (event.target as HTMLElement).closest("input, textarea, select, [contenteditable=true]");
      if (event.key === "z" && (event.ctrlKey || event.metaKey) && !typing && any) {
        event.preventDefault();
        undo.mutate();
      }
    }
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [any, undo.mutate]);

  return (
    <>
      <p role="status" className="sr-only">
        {said}
      </p>
      {any && (
        <section
          aria-label="Staged changes"
          className="on-dark z-30 flex h-[50px] shrink-0 items-center gap-4 border-t-[3px] border-brass bg-rod px-[20px] text-[#efe9f6]"
        >
          <strong className="font-semibold">{count(operations.length, "change")} staged</strong>
          <span className="text-sm text-rod3">
            {impact.data && !impact.isFetching
              ? `${count(impact.data.gain, "account gains", "accounts gain")} · ${impact.data.lose} ${impact.data.lose === 1 ? "loses" : "lose"} · ${count(impact.data.breaks.length, "expectation")} would break`
              : "Working out what they would do…"}
          </span>
          <span className="flex-1" />
          <Button
            look="dark"
            onClick={() => discard.mutate(undefined, { onSuccess: () => say("Discarded.") })}
          >
            Discard
          </Button>
          <Button look="brass" onClick={() => review(true)}>
            Review and apply
          </Button>
        </section>
      )}
      <Review
        open={reviewing && any}
        onClose={() => review(false)}
        onApplied={(summary) => {
          review(false);
          say(`Applied: ${summary}`);
        }}
      />
    </>
  );
}

type ReviewProps = { open: boolean; onClose: () => void; onApplied: (summary: string) => void };

function Review({ open, onClose, onApplied }: ReviewProps) {
  const operations = useChangeSet().data?.operations ?? [];
  const impact = useImpact().data;
  const apply = useApply();
  const unstage = useUnstage();
  const stale = operations.some((op) => op.stale);
  return (
    <Dialog open={open} onClose={onClose} title="Review and apply" wide>
      <table className="w-full text-sm">
        <thead>
          <tr className="border-b border-line text-left text-xs text-ink2">
            <th className="py-1 font-medium">What</th>
            <th className="font-medium">Is now</th>
            <th className="font-medium">Will be</th>
            <th>
              <span className="sr-only">Drop</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {operations.map((op) => (
            <tr key={op.position} className="border-b border-linen2 align-top">
              <td className="py-1.5 pr-3 font-medium">
                {op.what}
                {op.stale && (
                  <p className="text-xs font-normal text-bar">Changed by someone else since you staged it.</p>
                )}
              </td>
              <td className="py-1.5 pr-3 text-ink2">{op.was ?? "not there"}</td>
              <td className="py-1.5 pr-3">{op.now}</td>
              <td className="py-1 text-right">
                <Button
                  look="quiet"
                  onClick={() => unstage.mutate(op.position)}
                  aria-label={`Drop: ${op.what}`}
                >
                  Drop
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {impact && (
        <p className="mt-3 text-sm">
          <strong>{impact.gain}</strong> {impact.gain === 1 ? "account gains" : "accounts gain"} and{" "}
          <strong>{impact.lose}</strong> {impact.lose === 1 ? "loses" : "lose"} something: {impact.gained}{" "}
          answers turn to yes, {impact.lost} to no.
        </p>
      )}
      {impact && impact.breaks.length > 0 && (
        <div className="mt-2 rounded border border-[#dcb9b4] bg-rose px-3 py-2 text-sm">
          <p className="font-semibold text-bar">{count(impact.breaks.length, "expectation")} would break</p>
          <ul>
            {impact.breaks.map((sentence) => (
              <li key={sentence}>{sentence}</li>
            ))}
          </ul>
        </div>
      )}
      {stale && (
        <p className="mt-2 text-sm text-bar">Drop what was changed meanwhile, and look at it again.</p>
      )}
      <Trouble error={apply.error} />
      <DialogButtons>
        <Button onClick={onClose}>Not yet</Button>
        <Button
          look="brass"
          disabled={apply.isPending || stale}
          onClick={() => apply.mutate(undefined, { onSuccess: (done) => onApplied(done.summary) })}
        >
          Apply {count(operations.length, "change")}
        </Button>
      </DialogButtons>
    </Dialog>
  );
}
