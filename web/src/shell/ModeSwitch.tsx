// The two modes of standing in: looking only, and rehearsing.
import { ToggleGroup } from "radix-ui";
import { useState } from "react";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { type Mode, type Session, useGoOn } from "../shared/session";
import { useRehearsal } from "../shared/standin/useRehearsal";
import { count } from "../shared/time";
import { Button, ErrorNotice } from "../shared/ui";

const SIDE =
  "rounded-full px-2.5 py-[2px] text-note font-medium whitespace-nowrap data-[state=on]:bg-rod data-[state=on]:text-white disabled:text-ink2";

export function ModeSwitch({ session }: { session: Session }) {
  const { standing_in: underWay, subject, actor } = session;
  const goOn = useGoOn();
  const [losing, lose] = useState(false);
  const done = useRehearsal().data?.steps.length ?? 0;
  if (!underWay) return null;
  const past = underWay.at !== null && new Date(underWay.at).getTime() < Date.now();
  const oneself = subject?.id === actor?.id;

  function choose(mode: string) {
    if (mode === "" || mode === underWay?.mode) return;
    if (mode === "look" && done > 0) lose(true);
    else goOn.mutate(mode as Mode);
  }

  return (
    <>
      <ToggleGroup.Root
        type="single"
        aria-label="Mode"
        value={underWay.mode}
        onValueChange={choose}
        className="flex shrink-0 rounded-full border border-[#8f6620] bg-paper p-px"
      >
        <ToggleGroup.Item value="look" className={SIDE} disabled={oneself || goOn.isPending}>
          Look only
        </ToggleGroup.Item>
        <ToggleGroup.Item
          value="rehearse"
          className={SIDE}
          disabled={past || goOn.isPending}
          title={past ? "What is past can only be looked at." : undefined}
        >
          Rehearse
        </ToggleGroup.Item>
      </ToggleGroup.Root>
      <Dialog
        open={losing || goOn.isError}
        onClose={() => {
          lose(false);
          goOn.reset();
        }}
        title={losing ? "Look only, and lose what was done?" : "This mode is not to be had"}
      >
        {losing && (
          <p className="text-ink2">
            What was done in this rehearsal, {count(done, "step")}, is not kept anywhere and would be gone.
          </p>
        )}
        <ErrorNotice error={goOn.error} />
        <DialogButtons>
          {losing && (
            <Button onClick={() => goOn.mutate("look", { onSuccess: () => lose(false) })}>Look only</Button>
          )}
          <Button
            look="main"
            onClick={() => {
              lose(false);
              goOn.reset();
            }}
          >
            {losing ? "Go on rehearsing" : "Close"}
          </Button>
        </DialogButtons>
      </Dialog>
    </>
  );
}
