// Standing in with what is staged: as one of those it would touch, before anything is applied.

import { useState } from "react";
import { Dialog, DialogButtons } from "../Dialog";
import { Picker } from "../Picker";
import { useStandIn } from "../session";
import { Button, ErrorNotice, Labelled, Loading } from "../ui";
import { useImpactAccounts } from "./changeSet";

export function StandInStaged({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} title="Stand in with these">
      <Choice onClose={onClose} />
    </Dialog>
  );
}

function Choice({ onClose }: { onClose: () => void }) {
  const touched = useImpactAccounts(true);
  const standIn = useStandIn();
  const [chosen, choose] = useState("");
  const people = (touched.data ?? []).filter(({ account }) => account !== null);
  const account = chosen || (people[0]?.account ?? "");
  return (
    <>
      {touched.isPending && <Loading what="whom these changes touch" />}
      {touched.data && people.length === 0 && (
        <p className="text-sm">These changes turn nothing for anyone, so there is nothing to see.</p>
      )}
      {people.length > 0 && (
        <Labelled
          label="Stand in for"
          hint="You see the desk as it would be for them. Nothing is applied, and nothing can be changed."
        >
          {(id, by) => (
            <Picker
              id={id}
              describedBy={by}
              what="person"
              value={account}
              onPick={choose}
              choices={people.map((one) => ({ key: one.account ?? "", name: one.name }))}
            />
          )}
        </Labelled>
      )}
      <ErrorNotice error={touched.error ?? standIn.error} />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="main"
          disabled={!account || standIn.isPending}
          onClick={() => standIn.mutate({ whom: { account }, staged: true })}
        >
          Stand in
        </Button>
      </DialogButtons>
    </>
  );
}
