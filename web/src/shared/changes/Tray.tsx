// The tray across the bottom of every place while something is staged.

import { useState } from "react";
import { Menu, MenuItem } from "../Menu";
import { useDuty, useSession } from "../session";
import { count } from "../time";
import { Button } from "../ui";
import { useHotkey } from "../useHotkey";
import { useOpenHere } from "../useOpenHere";
import { AppliedNote } from "./AppliedNote";
import { useChangeSet, useDiscard, useTakeUp, useTouched, useUndoLast } from "./changeSet";
import { bothWords } from "./impactText";
import { type Applied, Review } from "./Review";
import { StandInStaged } from "./StandInStaged";

export function Tray() {
  const changeSet = useChangeSet();
  const operations = changeSet.data?.operations ?? [];
  const discard = useDiscard();
  const undo = useUndoLast();
  const [reviewing, review] = useOpenHere("review");
  const [standing, standIn] = useState(false);
  const others = useDuty("impersonate.start");
  const oneself = useDuty("rehearsal.start");
  const inIt = Boolean(useSession().data?.standing_in);
  const [announcement, announce] = useState("");
  const [applied, setApplied] = useState<Applied | null>(null);
  const any = operations.length > 0;
  const kept = changeSet.data?.kept.length ?? 0;

  useHotkey({ key: "z", control: true, unlessTyping: true }, () => any && undo.mutate());

  return (
    <>
      <p role="status" className="sr-only">
        {announcement}
      </p>
      {applied && (
        <AppliedNote
          key={applied.id}
          applied={applied}
          onDone={(words) => {
            setApplied(null);
            announce(words);
          }}
        />
      )}
      {(any || kept > 0) && (
        <section
          aria-label="Staged changes"
          className="on-dark z-30 flex h-[50px] shrink-0 items-center gap-4 border-t-[3px] border-brass bg-rod px-[20px] text-[#efe9f6]"
        >
          <strong className="shrink-0 font-semibold">
            {any ? `${count(operations.length, "change")} staged` : "Nothing staged"}
          </strong>
          <span className="min-w-0 text-sm leading-tight text-rod3">{any && <TouchedWords />}</span>
          <span className="flex-1" />
          <Kept />
          {any && (
            <>
              <Button
                look="dark"
                onClick={() => discard.mutate(undefined, { onSuccess: () => announce("Discarded.") })}
              >
                Discard
              </Button>
              {(others || oneself) && !inIt && (
                <Button look="dark" onClick={() => standIn(true)}>
                  Stand in with these
                </Button>
              )}
              <Button look="brass" onClick={() => review(true)}>
                Review and apply
              </Button>
            </>
          )}
        </section>
      )}
      <StandInStaged open={standing && any} onClose={() => standIn(false)} />
      <Review
        open={reviewing && any}
        onClose={() => review(false)}
        onApplied={(done) => {
          review(false);
          setApplied(done);
          announce(`Applied: ${done.summary}`);
        }}
        onKept={(name) => {
          review(false);
          announce(`Kept as ${name}.`);
        }}
      />
    </>
  );
}

/** Who would gain and lose by what is staged, and what would break. */
function TouchedWords() {
  const { data, isFetching, error } = useTouched();
  if (error) return `What they would do could not be worked out: ${error.message}`;
  if (!data || isFetching) return "Working out what they would do…";
  const breaks = data.breaks && `${count(data.breaks.length, "expectation")} would break`;
  return [bothWords(data), breaks].filter(Boolean).join(" · ");
}

/** Change sets put aside, each a click away. */
function Kept() {
  const kept = useChangeSet().data?.kept ?? [];
  const takeUp = useTakeUp();
  if (kept.length === 0) return null;
  return (
    <Menu
      label="Take up again"
      trigger={
        <button
          type="button"
          className="shrink-0 rounded border border-[#65577a] px-[11px] py-[5px] text-sm font-medium hover:bg-rod2"
        >
          Kept: {kept.length}
        </button>
      }
    >
      {kept.map(({ id, name, operations }) => (
        <MenuItem key={id} onSelect={() => takeUp.mutate(id)}>
          <span className="flex justify-between gap-4">
            {name}
            <span className="text-ink2">{count(operations, "change")}</span>
          </span>
        </MenuItem>
      ))}
    </Menu>
  );
}
