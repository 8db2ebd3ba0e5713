// Review and apply: what is staged in words, what it would do, what others changed meanwhile.
import { useState } from "react";
import { ProblemError } from "../../api/client";
import { Dialog, DialogButtons } from "../Dialog";
import { count } from "../time";
import { Button, ErrorNotice, INPUT } from "../ui";
import {
  type ChangeSet,
  useApply,
  useChangeSet,
  useImpact,
  usePutAside,
  useRebase,
  useTouched,
  useUnstage,
} from "./changeSet";
import { HowFar } from "./HowFar";
import { ImpactDetails } from "./ImpactDetails";
import { gainWords, loseWords } from "./impactText";
import { Warnings } from "./Warnings";

export type Applied = { id: string; summary: string };
type ReviewProps = {
  open: boolean;
  onClose: () => void;
  onApplied: (applied: Applied) => void;
  onKept: (name: string) => void;
};

export function Review({ open, onClose, onApplied, onKept }: ReviewProps) {
  const changeSet = useChangeSet().data;
  const operations = changeSet?.operations ?? [];
  const impact = useImpact(open);
  const touched = useTouched();
  const apply = useApply();
  // Kept out here, so that its end is heard although the dialog closes with what was staged.
  const putAside = usePutAside();
  const stale = operations.some((op) => op.stale);
  return (
    <Dialog open={open} onClose={onClose} title={changeSet?.name || "Review and apply"} size="wide">
      <Operations />
      {impact.data ? <ImpactDetails impact={impact.data} /> : <StillCounting error={impact.error} />}
      {touched.data && <Warnings touched={touched.data} />}
      <ErrorNotice error={touched.error} />
      {stale && (
        <p className="mt-2 text-sm text-bar">
          Somebody applied other changes meanwhile. Say for each whether yours still counts.
        </p>
      )}
      <ErrorNotice error={apply.error} />
      <HowFar underWay={apply.isPending} what="Applying" />
      <DialogButtons>
        <KeepForLater putAside={putAside} onKept={onKept} />
        <span className="flex-1" />
        <Button onClick={onClose}>Not yet</Button>
        <Button
          look="brass"
          disabled={apply.isPending || stale}
          onClick={() => apply.mutate(undefined, { onSuccess: onApplied })}
        >
          Apply {count(operations.length, "change")}
        </Button>
      </DialogButtons>
    </Dialog>
  );
}

/** Who gains and loses, until what and where is worked out too. */
function StillCounting({ error }: { error: Error | null }) {
  const touched = useTouched().data;
  if (error) return <ErrorNotice error={error} />;
  return (
    <p role="status" className="mt-4 text-sm text-ink2">
      {touched && (
        <strong className="block font-semibold text-ink first-letter:uppercase">
          {gainWords(touched)}, {loseWords(touched)}.
        </strong>
      )}
      Working out what and where…
    </p>
  );
}

const MOST_SHOWN = 10;

/** What is staged: of many the first, and all that somebody else changed, until one asks for the rest. */
function Operations() {
  const operations = useChangeSet().data?.operations ?? [];
  const [all, showAll] = useState(false);
  const shown = all ? operations : operations.filter((op, i) => i < MOST_SHOWN || op.stale);
  return (
    <>
      <OperationsTable operations={shown} />
      {operations.length > MOST_SHOWN && (
        <Button look="quiet" className="mt-1 -ml-2" aria-expanded={all} onClick={() => showAll(!all)}>
          {all ? "Show fewer" : `Show all ${count(operations.length, "change")}`}
        </Button>
      )}
    </>
  );
}

function OperationsTable({ operations }: { operations: ChangeSet["operations"] }) {
  const unstage = useUnstage();
  const rebase = useRebase();
  return (
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
            <td className="py-1 text-right whitespace-nowrap">
              {op.stale && (
                <Button
                  look="quiet"
                  onClick={() => rebase.mutate(op.position)}
                  aria-label={`Mine counts: ${op.what}`}
                >
                  Mine counts
                </Button>
              )}
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
  );
}

type KeepProps = { putAside: ReturnType<typeof usePutAside>; onKept: (name: string) => void };

function KeepForLater({ putAside, onKept }: KeepProps) {
  const [naming, setNaming] = useState(false);
  const [name, setName] = useState("");
  const error = putAside.error instanceof ProblemError ? putAside.error : null;
  if (!naming) return <Button onClick={() => setNaming(true)}>Keep for later</Button>;
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        putAside.mutate(name, { onSuccess: () => onKept(name) });
      }}
    >
      <label>
        <span className="sr-only">Name of these changes</span>
        <input
          // biome-ignore lint/a11y/noAutofocus: it was just asked for
          autoFocus
          value={name}
          onChange={(event) => setName(event.target.value)}
          placeholder="Name of these changes"
          aria-invalid={error ? true : undefined}
          className={`${INPUT} w-[190px]`}
        />
      </label>
      <Button type="submit" disabled={putAside.isPending}>
        Keep
      </Button>
      {error && (
        <span role="alert" className="text-xs text-bar">
          {error.at("/name") ?? error.problem.detail}
        </span>
      )}
    </form>
  );
}
