// The fields of a kind: in order, each with what it holds and who sees it; retired ones beneath.
import { useState } from "react";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { TextLink } from "../shared/TextLink";
import { Button, Empty, ErrorNotice } from "../shared/ui";
import { EditField } from "./EditField";
import { type Kind, type KindField, SORTS, useChangeField, useOrderFields, usePurgeField } from "./useKinds";

const MODES: Record<string, string> = {
  open: "open",
  author: "its author, and whoever may open author-only fields",
  table: "by role",
};

export function KindFields({ kind, may }: { kind: Kind; may: boolean }) {
  const [editing, edit] = useState<KindField | "new" | null>(null);
  const order = useOrderFields(kind);
  const fields = kind.fields.filter(({ retired }) => !retired);
  const all = kind.fields.map(({ key }) => key);
  function swap(field: KindField, step: -1 | 1) {
    const at = fields.indexOf(field);
    const other = fields[at + step];
    if (!other) return;
    order.mutate(all.map((key) => (key === field.key ? other.key : key === other.key ? field.key : key)));
  }
  return (
    <>
      {fields.length === 0 && (
        <Empty title="No fields yet">
          Every page has a title, and parts; fields hold what is told of each.
        </Empty>
      )}
      {fields.length > 0 && (
        <table className="mt-4 w-full text-sm">
          <thead>
            <tr className="border-b border-line text-left text-xs text-ink2">
              <th scope="col" className="py-1.5 font-normal">
                Field
              </th>
              <th scope="col" className="font-normal">
                What it holds
              </th>
              <th scope="col" className="font-normal">
                Who sees and changes it
              </th>
              <th scope="col">
                <span className="sr-only">Order and change</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {fields.map((field, at) => (
              <tr key={field.key} className="border-b border-linen2 align-top">
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
                  <TextLink to={`/limit?tab=fields&kind=${kind.key}`}>{MODES[field.mode]}</TextLink>
                </td>
                <td className="py-1 text-right whitespace-nowrap">
                  {may && (
                    <>
                      <Button
                        look="quiet"
                        aria-label={`${field.name} further up`}
                        disabled={at === 0 || order.isPending}
                        onClick={() => swap(field, -1)}
                      >
                        ↑
                      </Button>
                      <Button
                        look="quiet"
                        aria-label={`${field.name} further down`}
                        disabled={at === fields.length - 1 || order.isPending}
                        onClick={() => swap(field, 1)}
                      >
                        ↓
                      </Button>
                      <Button look="quiet" aria-label={`Change ${field.name}`} onClick={() => edit(field)}>
                        Change
                      </Button>
                    </>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
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
    </>
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
