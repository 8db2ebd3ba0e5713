// Making somebody else the author of a page.
import { useState } from "react";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { PersonPicker } from "../shared/pickers";
import { Button, ErrorNotice, Labelled } from "../shared/ui";
import type { Page } from "./useDesk";
import { useHandOn } from "./usePlaces";

export function HandOn({ page, open, onClose }: { page: Page; open: boolean; onClose: () => void }) {
  const [account, pick] = useState("");
  const handOn = useHandOn(page.id);
  return (
    <Dialog open={open} onClose={onClose} title={`Hand ${page.title} on`}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          handOn.mutate({ account, version: page.version }, { onSuccess: onClose });
        }}
      >
        <Labelled
          label="To"
          hint="Whatever authors may do with their own pages goes over to them, and away from whoever wrote it."
        >
          {(id, by) => <PersonPicker id={id} describedBy={by} value={account} onPick={pick} />}
        </Labelled>
        <ErrorNotice error={handOn.error} />
        <DialogButtons>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={!account || handOn.isPending}>
            Hand it on
          </Button>
        </DialogButtons>
      </form>
    </Dialog>
  );
}
