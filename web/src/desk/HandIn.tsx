// Handing a page in for review, with a word to those who may publish it.
import { useState } from "react";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { TextArea } from "../shared/fields";
import { Button, ErrorNotice } from "../shared/ui";
import { type Page, useHandIn } from "./useDesk";

type HandInProps = { page: Page; look: "main" | "plain"; disabled: boolean };

export function HandIn({ page, look, disabled }: HandInProps) {
  const [open, show] = useState(false);
  const [note, setNote] = useState("");
  const handIn = useHandIn(page);
  return (
    <>
      <Button look={look} disabled={disabled} onClick={() => show(true)}>
        Hand in for review
      </Button>
      <Dialog open={open} onClose={() => show(false)} title={`Hand in ${page.title}`}>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            handIn.mutate(note, { onSuccess: () => show(false) });
          }}
        >
          <TextArea
            label="A word with it"
            hint="Those who may publish it read this. It can be left out."
            rows={3}
            value={note}
            max={500}
            onChange={setNote}
          />
          <ErrorNotice error={handIn.error} />
          <DialogButtons>
            <Button onClick={() => show(false)}>Cancel</Button>
            <Button type="submit" look="main" disabled={handIn.isPending}>
              Hand it in
            </Button>
          </DialogButtons>
        </form>
      </Dialog>
    </>
  );
}
