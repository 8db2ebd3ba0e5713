// The rule of a field, or of several at once, set in place: its mode, and for each role how far it sees and changes it.
import type { KeyboardEvent } from "react";
import { colourOf } from "../cloth/colours";
import { Mark, type MarkExtent } from "../cloth/Mark";
import { RoleCloth } from "../cloth/RoleCloth";
import { type Operation, useStage } from "../shared/changes/changeSet";
import { count } from "../shared/time";
import { Chip, ErrorNotice } from "../shared/ui";
import type { FieldRule } from "../shared/useFieldRules";
import { useParam } from "../shared/useParam";
import type { Role } from "../shared/useRoles";
import { WhoCan } from "../shared/WhoCan";
import { useRoots } from "./useLimits";

type Mode = FieldRule["mode"];
type Verb = "see" | "change" | "fill";
type Mark_ = NonNullable<FieldRule["table"][string]>[number];

const MODES: [Mode, string][] = [
  ["open", "Open"],
  ["author", "Its author"],
  ["table", "These roles"],
];
const VERBS: [Verb, string][] = [
  ["see", "See"],
  ["change", "Change"],
  ["fill", "Fill"],
];

export function FieldSetting({ rules, roles }: { rules: FieldRule[]; roles: Role[] }) {
  const stage = useStage();
  const [first] = rules;
  if (!first) return null;
  const mode = rules.every((rule) => rule.mode === first.mode) ? first.mode : null;

  function say(next: (rule: FieldRule) => Pick<FieldRule, "mode" | "table">) {
    const operations: Operation[] = rules.map((rule) => {
      const said = next(rule);
      const { type, field } = rule;
      const table = said.mode === "table" ? said.table : {};
      return { kind: "set-field-rule", type, field, mode: said.mode, table };
    });
    stage.mutate(operations);
  }

  function put(role: string, verb: Verb, extent: MarkExtent) {
    say((rule) => {
      const others = (rule.table[role] ?? []).filter((mark) => !mark.startsWith(verb));
      const mark = markOf(verb, extent);
      const marks = mark ? [...others, mark] : others;
      const { [role]: _, ...rest } = rule.table;
      return { mode: "table", table: marks.length > 0 ? { ...rest, [role]: marks } : rest };
    });
  }

  return (
    <>
      <h2>{rules.length === 1 ? `${first.type_name}: ${first.name}` : count(rules.length, "field")}</h2>
      {rules.length > 1 && (
        <p className="text-xs text-ink2">
          {rules.map(({ type_name, name }) => `${type_name}: ${name}`).join(", ")}
        </p>
      )}
      <span className="my-2 flex gap-1.5">
        {MODES.map(([key, name]) => (
          <Chip key={key} on={mode === key} onClick={() => say((rule) => ({ mode: key, table: rule.table }))}>
            {name}
          </Chip>
        ))}
      </span>
      <ErrorNotice error={stage.error} />
      {mode === "table" && (
        <table className="w-full text-sm">
          <thead>
            <tr className="border-b border-line text-left text-xs text-ink2">
              <th className="py-1 font-normal">Role</th>
              {VERBS.map(([verb, name]) => (
                <th key={verb} className="w-[52px] py-1 text-center font-normal">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {roles.map((role) => (
              <tr key={role.key} className="border-b border-linen2">
                <th scope="row" className="py-0.5 text-left font-medium">
                  <RoleCloth cloth={role.cloth} size={13} /> {role.name}
                </th>
                {VERBS.map(([verb, name]) => (
                  <td key={verb} className="text-center">
                    <Cell
                      label={`${role.name}: ${name.toLowerCase()}`}
                      extents={rules.map((rule) => extentOf(rule.table[role.key] ?? [], verb))}
                      colour={colourOf(role.cloth)}
                      whole={verb === "fill"}
                      onPut={(extent) => put(role.key, verb, extent)}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {rules.length === 1 && <ByName rule={first} />}
    </>
  );
}

type CellProps = {
  label: string;
  /** Of each field that is chosen. */
  extents: MarkExtent[];
  colour: string;
  /** Whether it is yes or nothing. */
  whole: boolean;
  onPut: (extent: MarkExtent) => void;
};

const KEYS: Record<string, MarkExtent> = { o: "own", a: "all", y: "all", Backspace: "nothing" };

function Cell({ label, extents, colour, whole, onPut }: CellProps) {
  const [first = "nothing"] = extents;
  const same = extents.every((extent) => extent === first);
  const turns: MarkExtent[] = whole ? ["nothing", "all"] : ["nothing", "own", "all"];

  function pressed(event: KeyboardEvent) {
    const extent = KEYS[event.key];
    if (!extent || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    onPut(whole && extent === "own" ? "all" : extent);
  }

  return (
    <button
      type="button"
      aria-label={`${label}: ${same ? first : "differs"}`}
      title={`${label}. o own, a all, Backspace nothing`}
      className="inline-flex rounded hover:bg-chosen"
      onKeyDown={pressed}
      onClick={() => onPut(turns[(turns.indexOf(first) + 1) % turns.length] ?? "nothing")}
    >
      {same ? (
        <Mark extent={first} colour={colour} label="" />
      ) : (
        <span className="px-2 py-1 text-ink2">≠</span>
      )}
    </button>
  );
}

function extentOf(marks: Mark_[], verb: Verb): MarkExtent {
  const mark = marks.find((one) => one.startsWith(verb));
  if (!mark) return "nothing";
  return mark.endsWith("-own") ? "own" : "all";
}

function markOf(verb: Verb, extent: MarkExtent): Mark_ | null {
  if (extent === "nothing") return null;
  return (verb === "fill" ? "fill" : `${verb}-${extent}`) as Mark_;
}

/** Everybody who sees or changes a field somewhere in a branch, by name. */
function ByName({ rule }: { rule: FieldRule }) {
  const [verb, ask] = useParam("verb");
  const roots = useRoots(rule.tree);
  const [branch, setBranch] = useParam("in");
  const root = roots.data?.find(({ id }) => id === branch) ?? roots.data?.[0];
  if (!rule.tree || !root) return null;
  const action = verb === "change" ? "change-field" : "see-field";
  return (
    <section className="mt-5">
      <span className="mb-2 flex flex-wrap gap-1.5">
        <Chip on={verb !== "change"} onClick={() => ask("")}>
          See
        </Chip>
        <Chip on={verb === "change"} onClick={() => ask("change")}>
          Change
        </Chip>
        {(roots.data?.length ?? 0) > 1 &&
          roots.data?.map(({ id, title }) => (
            <Chip key={id} on={id === root.id} onClick={() => setBranch(id)}>
              {title}
            </Chip>
          ))}
      </span>
      <WhoCan
        key={`${action} ${root.id}`}
        question={{ action, branch: root.id, field: rule.field }}
        words={`${verb === "change" ? "change" : "see"} it`}
      />
    </section>
  );
}
