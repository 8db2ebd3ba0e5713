// Who has a field: its rule in words with the cloths of the roles, and a dialog that stages another one.
import { useState } from "react";
import { RoleCloth } from "../cloth/RoleCloth";
import { useStage } from "./changes/changeSet";
import { Dialog, DialogButtons } from "./Dialog";
import { Button, ErrorNotice } from "./ui";
import type { FieldRule } from "./useFieldRules";
import type { Role } from "./useRoles";

type Mode = FieldRule["mode"];
type Marks = NonNullable<FieldRule["table"][string]>;
type Mark = Marks[number];

const MODES: Record<Mode, string> = {
  open: "Open to whoever may see the page",
  author: "The author alone",
  table: "Only these roles",
};

export function FieldRuleWords({ rule, roles }: { rule: FieldRule; roles: Role[] }) {
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

function words(marks: Marks): string {
  const see = marks.includes("see-all") ? "sees" : marks.includes("see-own") ? "sees own" : "";
  const change = marks.includes("change-all") ? "changes" : marks.includes("change-own") ? "changes own" : "";
  return [see, change, marks.includes("fill") ? "fills" : ""].filter(Boolean).join(", ");
}

const DEGREES: ["see" | "change", (Mark | "")[]][] = [
  ["see", ["", "see-own", "see-all"]],
  ["change", ["", "change-own", "change-all"]],
];

type EditProps = { rule: FieldRule; roles: Role[]; onClose: () => void };

export function EditFieldRule({ rule, roles, onClose }: EditProps) {
  return (
    <Dialog open onClose={onClose} title={`${rule.type_name}: ${rule.name}`} size="wide">
      <RuleForm rule={rule} roles={roles} onClose={onClose} />
    </Dialog>
  );
}

function RuleForm({ rule, roles, onClose }: EditProps) {
  const [mode, setMode] = useState(rule.mode);
  const [table, setTable] = useState(rule.table);
  const stage = useStage();

  function put(role: string, verb: string, mark: Mark | "") {
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
        {(Object.entries(MODES) as [Mode, string][]).map(([value, name]) => (
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
                        onChange={(event) => put(role.key, verb, event.target.value as Mark | "")}
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
