// Giving a page back that was handed in, with a note that says what is to be changed.
import { useState } from "react";
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { TextArea } from "../shared/fields";
import { Button } from "../shared/ui";
import { useReturn, type Version } from "./useDesk";

export function Return({ page, disabled }: { page: Version; disabled: boolean }) {
  const [open, show] = useState(false);
  const [note, setNote] = useState("");
  const back = useReturn(page);
  const problem = back.error instanceof ProblemError ? back.error : null;
  return (
    <>
      <Button aria-label={`Return ${page.title}`} disabled={disabled} onClick={() => show(true)}>
        Return…
      </Button>
      <Dialog open={open} onClose={() => show(false)} title={`Return ${page.title}`}>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            back.mutate(note, { onSuccess: () => show(false) });
          }}
        >
          <TextArea
            label="What is to be changed"
            hint="Whoever wrote it reads this on the page, and by mail."
            error={problem?.at("/note") ?? problem?.problem.detail}
            rows={4}
            value={note}
            max={500}
            onChange={setNote}
          />
          <DialogButtons>
            <Button onClick={() => show(false)}>Cancel</Button>
            <Button type="submit" look="main" disabled={back.isPending}>
              Return it
            </Button>
          </DialogButtons>
        </form>
      </Dialog>
    </>
  );
}
