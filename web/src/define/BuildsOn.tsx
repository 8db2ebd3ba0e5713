// What a role builds on, as a picture of who builds on whom; changing it is staged.

import { useState } from "react";
import { RoleCloth } from "../cloth/RoleCloth";
import { useStage } from "../shared/changes/changeSet";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Picker } from "../shared/Picker";
import { roleChoices } from "../shared/pickers";
import { Button, ErrorNotice, Labelled } from "../shared/ui";
import type { Role } from "../shared/useRoles";

type BuildsOnProps = { open: boolean; onClose: () => void; role: Role; roles: Role[] };

export function BuildsOn({ open, onClose, role, roles }: BuildsOnProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`What ${role.name} builds on`}>
      <BuildsOnForm onClose={onClose} role={role} roles={roles} />
    </Dialog>
  );
}

function BuildsOnForm({ onClose, role, roles }: Omit<BuildsOnProps, "open">) {
  const [value, choose] = useState(role.builds_on ?? "");
  const stage = useStage();
  const related = family(roles);
  return (
    <>
      <Labelled label="Builds on" hint="What the other gives, this role gives too, unless it says otherwise.">
        {(id, by) => (
          <Picker
            id={id}
            describedBy={by}
            what="role"
            none="nothing"
            value={value}
            onPick={choose}
            choices={roleChoices(roles.filter(({ key }) => key !== role.key))}
          />
        )}
      </Labelled>
      <h3 className="mt-3 mb-1 text-xs font-semibold text-ink2">Who builds on whom</h3>
      <ul className="max-h-[220px] overflow-y-auto text-sm">
        {roles
          .filter(({ key, builds_on }) => related.has(key) && !builds_on)
          .map((one) => (
            <Branch key={one.key} role={one} roles={roles} here={role.key} />
          ))}
      </ul>
      <ErrorNotice error={stage.error} />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="main"
          disabled={stage.isPending || value === (role.builds_on ?? "")}
          onClick={() =>
            stage.mutate([{ kind: "set-builds-on", role: role.key, builds_on: value || null }], {
              onSuccess: onClose,
            })
          }
        >
          Stage
        </Button>
      </DialogButtons>
    </>
  );
}

/** Roles that build on another or are built on. */
function family(roles: Role[]): Set<string> {
  return new Set(roles.flatMap(({ key, builds_on }) => (builds_on ? [key, builds_on] : [])));
}

function Branch({ role, roles, here }: { role: Role; roles: Role[]; here: string }) {
  const above = roles.filter(({ builds_on }) => builds_on === role.key);
  return (
    <li>
      <span className={`flex items-center gap-1.5 py-[2px] ${role.key === here ? "font-semibold" : ""}`}>
        <RoleCloth cloth={role.cloth} size={14} />
        {role.name}
      </span>
      {above.length > 0 && (
        <ul className="ml-[7px] border-l border-line2 pl-4">
          {above.map((one) => (
            <Branch key={one.key} role={one} roles={roles} here={here} />
          ))}
        </ul>
      )}
    </li>
  );
}
