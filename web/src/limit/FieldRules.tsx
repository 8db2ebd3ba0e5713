// All fields of all types with their rules; choosing one opens its table of roles.

import { useState } from "react";
import { EditFieldRule, FieldRuleWords } from "../shared/FieldRule";
import { Picker } from "../shared/Picker";
import { Button, ErrorNotice, Loading } from "../shared/ui";
import { type FieldRule, useFieldRules } from "../shared/useFieldRules";
import { useParam } from "../shared/useParam";
import type { Role } from "../shared/useRoles";

export function FieldRules({ roles }: { roles: Role[] }) {
  const rules = useFieldRules();
  const [type, setType] = useParam("type");
  const [editing, edit] = useState<FieldRule | null>(null);
  if (rules.error) return <ErrorNotice error={rules.error} again={rules.refetch} />;
  if (!rules.data) return <Loading what="the fields" />;
  const types = new Map(rules.data.map((rule) => [rule.type, rule.type_name]));
  const shown = rules.data.filter((rule) => !type || rule.type === type);
  return (
    <div className="min-h-0 flex-1 overflow-y-auto pt-3 pb-6">
      <div className="mb-2 flex items-center gap-2 text-sm">
        <span id="kind-label">Fields of</span>
        <span className="w-[220px]">
          <Picker
            id="kind"
            what="kind"
            none="all kinds"
            value={type}
            onPick={setType}
            choices={[...types].map(([key, name]) => ({ key, name }))}
          />
        </span>
      </div>
      <table className="w-full text-read">
        <thead>
          <tr className="border-b border-line text-left text-xs text-ink2">
            {["Kind", "Field", "Who", ""].map((name) => (
              <th key={name} className="py-1.5 font-normal">
                {name || <span className="sr-only">Change</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map((rule) => (
            <tr key={`${rule.type}.${rule.field}`} className="border-b border-linen2">
              <td className="py-1.5 pr-3 text-ink2">{rule.type_name}</td>
              <th scope="row" className="py-1.5 pr-3 text-left font-semibold">
                {rule.name}
                {rule.staged && (
                  <span title="staged" className="ml-1.5 inline-block size-[8px] rounded-full bg-brass" />
                )}
              </th>
              <td className="py-1.5 pr-3">
                <FieldRuleWords rule={rule} roles={roles} />
              </td>
              <td className="py-1 text-right">
                <Button look="quiet" aria-label={`Change who has ${rule.name}`} onClick={() => edit(rule)}>
                  Change
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {editing && <EditFieldRule rule={editing} roles={roles} onClose={() => edit(null)} />}
    </div>
  );
}
