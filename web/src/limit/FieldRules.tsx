// All fields of all types with their rules; choosing one opens its table of roles.

import { useState } from "react";
import { RoleCloth } from "../cloth/RoleCloth";
import { useStage } from "../shared/changes/changeSet";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Picker } from "../shared/Picker";
import { Button, ErrorNotice, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import type { Role } from "../shared/useRoles";
import { type FieldRule, useFieldRules } from "./useLimits";

const MODES: Record<string, string> = {
  open: "Open to whoever may see the page",
  author: "The author alone",
  table: "Only these roles",
};

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
                <RuleWords rule={rule} roles={roles} />
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
      <Dialog
        open={editing !== null}
        onClose={() => edit(null)}
        title={editing ? `${editing.type_name}: ${editing.name}` : ""}
        size="wide"
      >
        {editing && <RuleForm rule={editing} roles={roles} onClose={() => edit(null)} />}
      </Dialog>
    </div>
  );
}

function RuleWords({ rule, roles }: { rule: FieldRule; roles: Role[] }) {
  if (rule.mode !== "table") return <span className="text-ink2">{MODES[rule.mode]}</span>;
  const rows = roles.filter((role) => rule.table[role.key]?.length);
  if (rows.length === 0) return <span>nobody but keyholders</span>;
  return (
    <span className="flex flex-wrap gap-x-4">
      {rows.map((role) => (
        <span key={role.key} className="whitespace-nowrap">
          <RoleCloth cloth={role.cloth} size={13} /> {role.name}{" "}
          <span className="text-xs text-ink2">{words(rule.table[role.key] ?? [])}</span>
        </span>
      ))}
    </span>
  );
}

function words(marks: string[]): string {
  const see = marks.includes("see-all") ? "sees" : marks.includes("see-own") ? "sees own" : "";
  const change = marks.includes("change-all") ? "changes" : marks.includes("change-own") ? "changes own" : "";
  return [see, change, marks.includes("fill") ? "fills" : ""].filter(Boolean).join(", ");
}

const DEGREES: [string, string[]][] = [
  ["see", ["", "see-own", "see-all"]],
  ["change", ["", "change-own", "change-all"]],
];

function RuleForm({ rule, roles, onClose }: { rule: FieldRule; roles: Role[]; onClose: () => void }) {
  const [mode, setMode] = useState(rule.mode);
  const [table, setTable] = useState<Record<string, string[]>>(rule.table);
  const stage = useStage();

  function put(role: string, verb: string, mark: string) {
    const others = (table[role] ?? []).filter((m) => !m.startsWith(verb));
    const marks = mark ? [...others, mark] : others;
    const { [role]: _, ...rest } = table;
    setTable(marks.length ? { ...rest, [role]: marks } : rest);
  }

  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        const { type, field } = rule;
        stage.mutate([{ kind: "set-field-rule", type, field, mode, table: mode === "table" ? table : {} }], {
          onSuccess: onClose,
        });
      }}
    >
      <fieldset className="mb-3 flex gap-5">
        <legend className="sr-only">Who has this field</legend>
        {Object.entries(MODES).map(([value, name]) => (
          <label key={value} className="flex items-center gap-1.5 text-sm">
            <input
              type="radio"
              name="mode"
              className="accent-rod"
              checked={mode === value}
              onChange={() => setMode(value)}
            />
            {name}
          </label>
        ))}
      </fieldset>
      {mode === "table" && (
        <table className="w-full text-sm">
          <thead>
            <tr className="border-b border-line text-left text-xs text-ink2">
              {["Role", "See", "Change", "Fill when new"].map((name) => (
                <th key={name} className="py-1 font-normal">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {roles.map((role) => {
              const marks = table[role.key] ?? [];
              return (
                <tr key={role.key} className="border-b border-linen2">
                  <th scope="row" className="py-1 text-left font-medium">
                    <RoleCloth cloth={role.cloth} size={14} /> {role.name}
                  </th>
                  {DEGREES.map(([verb, degrees]) => (
                    <td key={verb}>
                      <select
                        aria-label={`${role.name}: ${verb}`}
                        value={marks.find((m) => m.startsWith(verb)) ?? ""}
                        onChange={(event) => put(role.key, verb, event.target.value)}
                        className="rounded border border-line bg-white px-1 py-[1px]"
                      >
                        {degrees.map((degree) => (
                          <option key={degree} value={degree}>
                            {degree ? degree.split("-")[1] : "no"}
                          </option>
                        ))}
                      </select>
                    </td>
                  ))}
                  <td>
                    <input
                      type="checkbox"
                      className="size-4 accent-rod"
                      aria-label={`${role.name}: fill`}
                      checked={marks.includes("fill")}
                      onChange={(event) => put(role.key, "fill", event.target.checked ? "fill" : "")}
                    />
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <ErrorNotice error={stage.error} />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={stage.isPending}>
          Stage it
        </Button>
      </DialogButtons>
    </form>
  );
}
