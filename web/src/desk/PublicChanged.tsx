// Told before a working copy is published over a page that was changed meanwhile: what was, and what the copy says.
import { ProblemError, type Shapes } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Button } from "../shared/ui";
import { SincePublic } from "./SincePublic";
import { ToldChanges } from "./ToldChanges";
import type { Version } from "./useDesk";

type Told = { over: number; since: Shapes["VersionChangeShape"][] };

export function isPublicChanged(error: Error | null): error is ProblemError {
  return error instanceof ProblemError && error.problem.reason === "public-changed";
}

type PublicChangedProps = {
  of: Pick<Version, "id" | "title" | "working">;
  error: Error | null;
  onGoOn: (over: number) => void;
  onClose: () => void;
};

export function PublicChanged({ of, error, onGoOn, onClose }: PublicChangedProps) {
  const open = isPublicChanged(error);
  const told = open ? (error.problem as unknown as Told) : { over: 0, since: [] };
  return (
    <Dialog open={open} onClose={onClose} title="The public page is another by now" size="wide">
      <p className="text-sm">{open ? error.problem.detail : ""}</p>
      <h3 className="mt-3 font-semibold">Changed on the public page since</h3>
      {told.since.length === 0 && <p className="text-sm text-ink2">Nothing that you may see.</p>}
      <ToldChanges changes={told.since} fresh={false} />
      <h3 className="mt-3 font-semibold">What publishing the copy would make of it</h3>
      {open && <SincePublic of={of} />}
      <DialogButtons>
        <Button onClick={onClose}>Leave both as they are</Button>
        <Button look="main" onClick={() => onGoOn(told.over)}>
          Publish the copy over it
        </Button>
      </DialogButtons>
    </Dialog>
  );
}
