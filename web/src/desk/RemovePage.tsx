// Removing a page: what goes with it and what leads to it, told before it goes into the bin.
import { useNavigate } from "react-router";
import { HowFar } from "../shared/changes/HowFar";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { count } from "../shared/time";
import { Button, ErrorNotice, Loading } from "../shared/ui";
import type { Page } from "./useDesk";
import { useRemoval, useRemove } from "./usePlaces";

export function RemovePage({ page, open, onClose }: { page: Page; open: boolean; onClose: () => void }) {
  const removal = useRemoval(page.id, open);
  const navigate = useNavigate();
  const remove = useRemove(() =>
    navigate(`/desk/${page.parent ?? ""}${window.location.search}`, {
      state: { removed: { id: page.id, title: page.title } },
    }),
  );
  const told = removal.data;
  return (
    <Dialog open={open} onClose={onClose} title={`Remove ${page.title}?`}>
      <ErrorNotice error={removal.error ?? remove.error} />
      {!told && !removal.error && <Loading what="what goes with it" />}
      {told && (
        <div className="space-y-2">
          <p>
            {told.beneath > 0
              ? `${count(told.beneath, "page")} beneath it ${told.beneath === 1 ? "goes" : "go"} with it.`
              : "Nothing else goes with it."}{" "}
            In the bin it is kept for at least {count(told.days, "day")}, and can be brought back.
          </p>
          {told.linked_from.length > 0 && (
            <p>
              <strong>{told.linked_from.join(", ")}</strong>{" "}
              {told.linked_from.length === 1 ? "leads" : "lead"} to it.
            </p>
          )}
        </div>
      )}
      <HowFar underWay={remove.isPending} what="Removing it with what is beneath" />
      <DialogButtons>
        <Button onClick={onClose}>Keep it</Button>
        <Button
          look="main"
          disabled={!told || remove.isPending}
          onClick={() => remove.mutate({ node: page.id, version: page.version })}
        >
          Remove it
        </Button>
      </DialogButtons>
    </Dialog>
  );
}
