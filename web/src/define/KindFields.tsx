// The fields of a kind: in order, each with what it holds and who sees it; retired ones beneath.
import { arrayMove } from "@dnd-kit/sortable";
import { useState } from "react";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { EditFieldRule, FieldRuleWords } from "../shared/FieldRule";
import { Sortable, SortHandle, useSorted } from "../shared/Sortable";
import { useDuty } from "../shared/session";
import { Button, Empty, ErrorNotice } from "../shared/ui";
import { type FieldRule, useFieldRules } from "../shared/useFieldRules";
import { type Role, useRoles } from "../shared/useRoles";
import { EditField } from "./EditField";
import { type Kind, type KindField, SORTS, useChangeField, useOrderFields, usePurgeField } from "./useKinds";

const MODES: Record<string, string> = {
  open: "open",
  author: "its author, and whoever may open author-only fields",
  table: "by role",
};

export function KindFields({ kind, may }: { kind: Kind; may: boolean }) {
  const [editing, edit] = useState<KindField | "new" | null>(null);
  const [ruling, rule] = useState<FieldRule | null>(null);
  const mayRule = useDuty("limits.set");
  const rules = useFieldRules(mayRule);
  const roles = useRoles(mayRule).data ?? [];
  const order = useOrderFields(kind);
  const fields = inOrder(kind, order.isPending ? order.variables : []).filter(({ retired }) => !retired);
  const shown = fields.map(({ key }) => key);
  const retired = kind.fields.filter((field) => field.retired).map(({ key }) => key);
  const names = new Map(fields.map(({ key, name }) => [key, name]));
  return (
    <>
      {fields.length === 0 && (
        <Empty title="No fields yet">
          Every page has a title, and parts; fields hold what is told of each.
        </Empty>
      )}
      {fields.length > 0 && (
        <Sortable
          ids={shown}
          what="the field"
          nameOf={(key) => names.get(key) ?? key}
          onMove={(from, to) => order.mutate([...arrayMove(shown, from, to), ...retired])}
        >
          <table className="mt-4 w-full text-sm">
            <thead>
              <tr className="border-b border-line text-left text-xs text-ink2">
                <th scope="col" className="w-7">
                  <span className="sr-only">Order</span>
                </th>
                {["Field", "What it holds", "Who sees and changes it"].map((head) => (
                  <th key={head} scope="col" className="py-1.5 font-normal">
                    {head}
                  </th>
                ))}
                <th scope="col">
                  <span className="sr-only">Change</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {fields.map((field) => (
                <FieldRow
                  key={field.key}
                  field={field}
                  may={may && !order.isPending}
                  onEdit={edit}
                  rule={rules.data?.find((one) => one.type === kind.key && one.field === field.key)}
                  roles={roles}
                  onRule={rule}
                />
              ))}
            </tbody>
          </table>
        </Sortable>
      )}
      <ErrorNotice error={order.error} />
      {may && (
        <Button className="mt-3" onClick={() => edit("new")}>
          Add a field
        </Button>
      )}
      <Retired kind={kind} may={may} />
      {editing && (
        <EditField kind={kind} field={editing === "new" ? null : editing} onClose={() => edit(null)} />
      )}
      {ruling && <EditFieldRule rule={ruling} roles={roles} onClose={() => rule(null)} />}
    </>
  );
}

/** The fields as they are about to be ordered, until they are. */
function inOrder({ fields }: Kind, keys: string[]): KindField[] {
  return [...fields].sort((a, b) => keys.indexOf(a.key) - keys.indexOf(b.key));
}

type RowProps = {
  field: KindField;
  may: boolean;
  onEdit: (field: KindField) => void;
  /** For whoever may set limits. */
  rule: FieldRule | undefined;
  roles: Role[];
  onRule: (rule: FieldRule) => void;
};

function FieldRow({ field, may, onEdit, rule, roles, onRule }: RowProps) {
  const { item, handle, dragged } = useSorted(field.key, !may);
  return (
    <tr
      {...item}
      className={`border-b border-linen2 align-top ${dragged ? "relative z-10 bg-paper shadow-lg" : ""}`}
    >
      <td className="pt-2">
        {may && <SortHandle name={field.name} {...handle} className="text-ink3 hover:text-ink" />}
      </td>
      <th scope="row" className="py-2 pr-3 text-left font-semibold">
        {field.name}
        {field.help && <span className="block text-xs font-normal text-ink2">{field.help}</span>}
      </th>
      <td className="py-2 pr-3 text-ink2">
        {SORTS[field.kind]}
        {field.choices.length > 0 ? `: ${field.choices.join(", ")}` : ""}
        {field.required ? ", required" : ""}
      </td>
      <td className="py-2 pr-3">
        {rule?.mode === "table" ? (
          <FieldRuleWords rule={rule} roles={roles} />
        ) : (
          MODES[rule?.mode ?? field.mode]
        )}
        {rule?.staged && <span className="ml-1.5 text-xs text-ink2">staged</span>}
      </td>
      <td className="py-1 text-right whitespace-nowrap">
        {rule && (
          <Button look="quiet" aria-label={`Change who has ${field.name}`} onClick={() => onRule(rule)}>
            Who…
          </Button>
        )}
        {may && (
          <Button look="quiet" aria-label={`Change ${field.name}`} onClick={() => onEdit(field)}>
            Change
          </Button>
        )}
      </td>
    </tr>
  );
}

function Retired({ kind, may }: { kind: Kind; may: boolean }) {
  const [purging, purge] = useState<KindField | null>(null);
  const change = useChangeField(kind);
  const end = usePurgeField(kind);
  const retired = kind.fields.filter((field) => field.retired);
  if (retired.length === 0) return null;
  return (
    <div className="mt-4">
      <h3 className="text-note font-semibold text-ink2">Retired: their values are kept, and shown nowhere</h3>
      <ul aria-label="Retired fields">
        {retired.map((field) => (
          <li key={field.key} className="flex items-center gap-2 border-b border-linen2 py-1 text-sm">
            <span className="flex-1">{field.name}</span>
            {may && (
              <>
                <Button
                  look="quiet"
                  aria-label={`Bring ${field.name} back`}
                  onClick={() => change.mutate({ field: field.key, retired: false })}
                >
                  Bring back
                </Button>
                <Button look="quiet" aria-label={`Purge ${field.name}`} onClick={() => purge(field)}>
                  Purge…
                </Button>
              </>
            )}
          </li>
        ))}
      </ul>
      <ErrorNotice error={change.error} />
      <Dialog open={purging !== null} onClose={() => purge(null)} title={`Purge ${purging?.name}?`}>
        <p>
          Its values go for good, from all {kind.plural} and all their earlier versions. Nobody can bring them
          back.
        </p>
        <ErrorNotice error={end.error} />
        <DialogButtons>
          <Button onClick={() => purge(null)}>Keep it</Button>
          <Button
            look="main"
            disabled={end.isPending}
            onClick={() => purging && end.mutate(purging.key, { onSuccess: () => purge(null) })}
          >
            Purge it
          </Button>
        </DialogButtons>
      </Dialog>
    </div>
  );
}
