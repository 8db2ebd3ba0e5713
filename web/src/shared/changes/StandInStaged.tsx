// What is staged, tried before anything is applied: as one of those it would touch, or as oneself.

import { useState } from "react";
import { Dialog, DialogButtons } from "../Dialog";
import { Picker } from "../Picker";
import { type Mode, useDuty, useSession, useStandIn } from "../session";
import { Button, Chip, ErrorNotice, Labelled, Loading } from "../ui";
import { useImpactAccounts } from "./changeSet";

export function StandInStaged({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} title="Try these before they are applied">
      <Choice onClose={onClose} />
    </Dialog>
  );
}

function Choice({ onClose }: { onClose: () => void }) {
  const touched = useImpactAccounts(true);
  const standIn = useStandIn();
  const me = useSession().data?.actor;
  const others = useDuty("impersonate.start");
  const rehearses = useDuty("rehearsal.start");
  const [chosen, choose] = useState("");
  const [mode, setMode] = useState<Mode>("look");
  const people = (touched.data ?? []).flatMap(({ account, name }) =>
    account !== null && others ? [{ key: account, name }] : [],
  );
  const choices = me && rehearses ? [...people, { key: me.id, name: "Yourself" }] : people;
  const account = chosen || (choices[0]?.key ?? "");
  const oneself = account === me?.id;
  return (
    <>
      {touched.isPending && <Loading what="whom these changes touch" />}
      {touched.data && choices.length === 0 && (
        <p className="text-sm">These changes turn nothing for anyone, so there is nothing to see.</p>
      )}
      {choices.length > 0 && (
        <>
          <Labelled label="As whom" hint="All is as it would be once these are applied, and nothing is kept.">
            {(id, by) => (
              <Picker
                id={id}
                describedBy={by}
                what="person"
                value={account}
                onPick={choose}
                choices={choices}
              />
            )}
          </Labelled>
          {!oneself && (
            <div className="mb-3 flex gap-1.5">
              <Chip on={mode === "look"} onClick={() => setMode("look")}>
                Look only
              </Chip>
              <Chip on={mode === "rehearse"} onClick={() => setMode("rehearse")}>
                Rehearse
              </Chip>
            </div>
          )}
        </>
      )}
      <ErrorNotice error={touched.error ?? standIn.error} />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="main"
          disabled={!account || standIn.isPending}
          onClick={() =>
            standIn.mutate({ whom: { account }, staged: true, mode: oneself ? "rehearse" : mode })
          }
        >
          {oneself || mode === "rehearse" ? "Rehearse" : "Stand in"}
        </Button>
      </DialogButtons>
    </>
  );
}
