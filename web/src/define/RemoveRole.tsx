// Taking a role away: who loses it, and handing its holders to another role in the same step.

import { useState } from "react";
import { useStageRemoval } from "../shared/changes/changeSet";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Picker } from "../shared/Picker";
import { roleChoices } from "../shared/pickers";
import { count } from "../shared/time";
import { Button, ErrorNotice, Labelled } from "../shared/ui";
import type { Role } from "../shared/useRoles";

type RemoveProps = { open: boolean; onClose: () => void; role: Role; roles: Role[] };

export function RemoveRole({ open, onClose, role, roles }: RemoveProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`Remove ${role.name}`}>
      <RemoveForm onClose={onClose} role={role} roles={roles} />
    </Dialog>
  );
}

function heldBy({ holders, groups }: Role): string {
  if (holders === null) return "Who holds it is told to whoever sees the roster.";
  if (holders === 0) return "Nobody holds it.";
  return `${count(holders, "account holds", "accounts hold")} it${groups ? `, ${count(groups, "group")} among them` : ""}.`;
}

function RemoveForm({ onClose, role, roles }: Omit<RemoveProps, "open">) {
  const [to, setTo] = useState("");
  const removal = useStageRemoval(role.key);
  const built = roles.filter((other) => other.builds_on === role.key);
  const above = roles.find((other) => other.key === role.builds_on);
  const others = roles.filter((other) => other.key !== role.key && other.baseline === "");
  return (
    <>
      <p className="mb-3 text-sm">
        {heldBy(role)}{" "}
        {built.length > 0 &&
          `${built.map((other) => other.name).join(", ")} will build on ${above?.name ?? "nothing"} instead.`}
      </p>
      {role.holders !== 0 && (
        <Labelled label="Its holders get" hint="Where and until when they had it stays as it was.">
          {(id, by) => (
            <Picker
              id={id}
              describedBy={by}
              what="role"
              none="nothing in its place"
              value={to}
              onPick={setTo}
              choices={roleChoices(others)}
            />
          )}
        </Labelled>
      )}
      <p className="mt-2 text-sm text-ink2">
        Staged with all that names the role. Review shows who would lose what, and it can be undone.
      </p>
      <ErrorNotice error={removal.error} />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="main"
          disabled={removal.isPending}
          onClick={() => removal.mutate(to || null, { onSuccess: onClose })}
        >
          Stage its removal
        </Button>
      </DialogButtons>
    </>
  );
}
