// Told before a page is published that nobody would see: no role gives its kind, or none does here.
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Button } from "../shared/ui";

export function isUnseen(error: Error | null): error is ProblemError {
  return error instanceof ProblemError && error.problem.reason === "unseen";
}

type UnseenProps = { error: Error | null; onGoOn: () => void; onClose: () => void };

export function Unseen({ error, onGoOn, onClose }: UnseenProps) {
  return (
    <Dialog open={isUnseen(error)} onClose={onClose} title="Nobody would see it">
      <p className="text-sm">{isUnseen(error) ? error.problem.detail : ""}</p>
      <p className="mt-2 text-sm text-ink2">Whoever defines roles can let somebody see it first.</p>
      <DialogButtons>
        <Button onClick={onClose}>Leave it as it is</Button>
        <Button look="main" onClick={onGoOn}>
          Publish it all the same
        </Button>
      </DialogButtons>
    </Dialog>
  );
}
