// A field of a kind: what it is called, what it holds, whether it is required, and at once who sees and fills it.
import { useState } from "react";
import { type Control, useController, useForm, useWatch } from "react-hook-form";
import { ProblemError } from "../api/client";
import { RoleCloth } from "../cloth/RoleCloth";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { LineField, LinesField, showRefused } from "../shared/form";
import { RolePicker } from "../shared/pickers";
import { useDuty } from "../shared/session";
import { Button, Chip, ErrorNotice, INPUT, Labelled } from "../shared/ui";
import { useRoleMap } from "../shared/useRoles";
import { type FieldSort, type Kind, type KindField, SORTS, useAddField, useChangeField } from "./useKinds";

type EditProps = { kind: Kind; field: KindField | null; onClose: () => void };
type Mode = "open" | "author" | "table";
type Table = Record<string, Mark[]>;

const MARKS = ["see-own", "see-all", "change-own", "change-all", "fill"] as const;
type Mark = (typeof MARKS)[number];
const MARK_WORDS: Record<Mark, string> = {
  "see-own": "sees own",
  "see-all": "sees all",
  "change-own": "changes own",
  "change-all": "changes all",
  fill: "fills in",
};
const MODES: { mode: Mode; words: string }[] = [
  { mode: "open", words: "Whoever may see the page" },
  { mode: "author", words: "Its author only" },
  { mode: "table", words: "By role" },
];
const OF_PROFILES: FieldSort[] = ["text", "long", "number", "yes", "date", "choice", "link"];

type Asked = {
  name: string;
  kind: FieldSort;
  help: string;
  required: boolean;
  choices: string;
  mode: Mode;
  table: Table;
};

export function EditField({ kind, field, onClose }: EditProps) {
  const form = useForm<Asked>({
    defaultValues: {
      name: field?.name ?? "",
      kind: field?.kind ?? "text",
      help: field?.help ?? "",
      required: field?.required ?? false,
      choices: field?.choices.join("\n") ?? "",
      mode: "open",
      table: {},
    },
  });
  const { register, control, setError, formState } = form;
  const sort = useWatch({ control, name: "kind" });
  const add = useAddField(kind);
  const change = useChangeField(kind);
  const mayRule = useDuty("limits.set");
  const error = add.error ?? change.error;
  const wrong = formState.errors;
  const lines = error instanceof ProblemError ? error.at("/choices") : undefined;
  const choosing = sort === "choice" || sort === "choices";
  const save = form.handleSubmit(({ name, help, required, choices, mode, table }) => {
    const chosen = choices.split("\n").flatMap((line) => line.trim() || []);
    const said = { name, help, required, choices: choosing ? chosen : [] };
    const then = { onSuccess: onClose, onError: (refused: Error) => showRefused(refused, setError) };
    if (field) change.mutate({ field: field.key, ...said }, then);
    else add.mutate({ ...said, kind: sort, rule: { mode, table } }, then);
  });
  const [warned, warn] = useState(false);
  function retire() {
    if (!field) return;
    if (field.asked && !warned) warn(true);
    else change.mutate({ field: field.key, retired: true }, { onSuccess: onClose });
  }
  return (
    <Dialog open onClose={onClose} title={field ? `Change ${field.name}` : `New field of ${kind.plural}`}>
      <form onSubmit={save} noValidate>
        <LineField label="Name" field={register("name")} error={wrong.name?.message} />
        {!field && (
          <Labelled label="What it holds" error={wrong.kind?.message}>
            {(id, by) => (
              <select id={id} aria-describedby={by} className={INPUT} {...register("kind")}>
                {(Object.keys(SORTS) as FieldSort[])
                  .filter((one) => kind.tree !== null || OF_PROFILES.includes(one))
                  .map((one) => (
                    <option key={one} value={one}>
                      {SORTS[one]}
                    </option>
                  ))}
              </select>
            )}
          </Labelled>
        )}
        {choosing && (
          <LinesField
            label="What there is to choose from"
            hint="One a line."
            field={register("choices")}
            error={lines}
            rows={3}
          />
        )}
        <LineField
          label="Help"
          hint="Stands beneath the field on the desk."
          field={register("help")}
          error={wrong.help?.message}
        />
        {kind.tree !== null && (
          <label className="mb-3 flex items-baseline gap-2 text-sm">
            <input type="checkbox" {...register("required")} />
            Required when a page is handed in or published
          </label>
        )}
        {!field && mayRule && <FirstRule control={control} />}
        {!(wrong.name ?? wrong.kind ?? wrong.help ?? lines) && <ErrorNotice error={error} />}
        {warned && (
          <p role="alert" className="mb-3 text-sm">
            People are asked for this when they come. Once it is retired, nobody is asked for it any more.
          </p>
        )}
        <DialogButtons>
          {field && (
            <>
              <Button look="quiet" disabled={change.isPending} onClick={retire}>
                {warned ? "Retire it all the same" : "Retire it"}
              </Button>
              <span className="flex-1" />
            </>
          )}
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={add.isPending || change.isPending}>
            {field ? "Save" : "Add it"}
          </Button>
        </DialogButtons>
      </form>
    </Dialog>
  );
}

function FirstRule({ control }: { control: Control<Asked> }) {
  const mode = useController({ control, name: "mode" }).field;
  const table = useController({ control, name: "table" }).field;
  return (
    <fieldset className="mb-3">
      <legend className="mb-1 text-sm font-semibold">Who sees and fills it</legend>
      <span className="flex flex-wrap gap-1.5">
        {MODES.map((one) => (
          <Chip key={one.mode} on={mode.value === one.mode} onClick={() => mode.onChange(one.mode)}>
            {one.words}
          </Chip>
        ))}
      </span>
      {mode.value === "table" && <RuleTable table={table.value} onChange={table.onChange} />}
    </fieldset>
  );
}

/** Roles, each with what it may do with the field; whoever is not named sees nothing of it. */
function RuleTable({ table, onChange }: { table: Table; onChange: (table: Table) => void }) {
  const roles = useRoleMap();
  const turn = (role: string, mark: Mark) => {
    const marks = table[role] ?? [];
    const next = marks.includes(mark) ? marks.filter((one) => one !== mark) : [...marks, mark];
    onChange({ ...table, [role]: next });
  };
  return (
    <div className="mt-2 space-y-2">
      {Object.keys(table).map((role) => (
        <div key={role}>
          <p className="flex items-center gap-1.5 text-sm">
            <RoleCloth cloth={roles.get(role)?.cloth} size={14} />
            {roles.get(role)?.name}
          </p>
          <span className="mt-1 flex flex-wrap gap-1">
            {MARKS.map((mark) => (
              <Chip key={mark} on={table[role]?.includes(mark)} onClick={() => turn(role, mark)}>
                {MARK_WORDS[mark]}
              </Chip>
            ))}
          </span>
        </div>
      ))}
      <RolePicker
        onPick={(role) => onChange({ ...table, [role]: table[role] ?? ["see-all"] })}
        trigger={<Button>+ role</Button>}
      />
    </div>
  );
}
