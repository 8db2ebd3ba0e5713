// All fields of all kinds with their rules: chosen ones are set in place on the right, several at once.
import { useState } from "react";
import { FieldRuleWords } from "../shared/FieldRule";
import { Picker } from "../shared/Picker";
import { Chip, Empty, ErrorNotice, Loading } from "../shared/ui";
import { type FieldRule, useFieldRules } from "../shared/useFieldRules";
import { useParam } from "../shared/useParam";
import type { Role } from "../shared/useRoles";
import { FieldSetting } from "./FieldSetting";
import { ShownTo } from "./ShownTo";

const idOf = (rule: FieldRule) => `${rule.type}.${rule.field}`;

export function FieldRules({ roles }: { roles: Role[] }) {
  const rules = useFieldRules();
  const [type, setType] = useParam("type");
  const [field, setField] = useParam("field");
  const [more, addMore] = useState<Set<string>>(new Set());
  const [side, turn] = useState<"rules" | "page">("rules");
  if (rules.error) return <ErrorNotice error={rules.error} again={rules.refetch} />;
  if (!rules.data) return <Loading what="the fields" />;
  const types = new Map(rules.data.map((rule) => [rule.type, rule.type_name]));
  const shown = rules.data.filter((rule) => !type || rule.type === type);
  const chosen = rules.data.filter((rule) => idOf(rule) === field || more.has(idOf(rule)));

  function mark(rule: FieldRule) {
    const next = new Set(more);
    if (!next.delete(idOf(rule))) next.add(idOf(rule));
    addMore(next);
  }

  return (
    <div className="flex min-h-0 flex-1">
      <div className="min-w-0 flex-1 overflow-y-auto pt-3 pr-4 pb-6">
        <div className="mb-2 flex items-center gap-2 text-sm">
          <Chip on={side === "rules"} onClick={() => turn("rules")}>
            Rules
          </Chip>
          <Chip on={side === "page"} onClick={() => turn("page")}>
            What one page shows
          </Chip>
          <span className="flex-1" />
          {side === "rules" && (
            <>
              <span id="kind-label">Fields of</span>
              <span className="w-[200px]">
                <Picker
                  id="kind"
                  what="kind"
                  none="all kinds"
                  value={type}
                  onPick={setType}
                  choices={[...types].map(([key, name]) => ({ key, name }))}
                />
              </span>
            </>
          )}
        </div>
        {side === "page" ? (
          <ShownTo />
        ) : (
          <table className="w-full text-read">
            <thead>
              <tr className="border-b border-line text-left text-xs text-ink2">
                {["Chosen", "Kind", "Field", "Who"].map((name) => (
                  <th key={name} className="py-1.5 font-normal">
                    {name === "Chosen" ? <span className="sr-only">Chosen</span> : name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {shown.map((rule) => (
                <tr
                  key={idOf(rule)}
                  aria-current={idOf(rule) === field || undefined}
                  className={`border-b border-l-[3px] border-b-linen2 ${
                    idOf(rule) === field ? "border-l-brass bg-warm" : "border-l-transparent"
                  }`}
                >
                  <td className="w-[30px] py-1.5 pl-1.5">
                    <input
                      type="checkbox"
                      className="accent-rod"
                      aria-label={`${rule.type_name}: ${rule.name}`}
                      checked={more.has(idOf(rule)) || idOf(rule) === field}
                      disabled={idOf(rule) === field}
                      onChange={() => mark(rule)}
                    />
                  </td>
                  <td className="py-1.5 pr-3 text-ink2">{rule.type_name}</td>
                  <th scope="row" className="py-1.5 pr-3 text-left font-semibold">
                    <button
                      type="button"
                      aria-pressed={idOf(rule) === field}
                      className="text-left hover:underline"
                      onClick={() => setField(idOf(rule) === field ? "" : idOf(rule))}
                    >
                      {rule.name}
                    </button>
                    {rule.staged && (
                      <span title="staged" className="ml-1.5 inline-block size-[8px] rounded-full bg-brass" />
                    )}
                  </th>
                  <td className="py-1.5 pr-3">
                    <FieldRuleWords rule={rule} roles={roles} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
      {side === "rules" && (
        <aside
          aria-label="Who has it"
          className="-mr-[26px] w-[340px] shrink-0 overflow-y-auto border-l border-line bg-paper px-[18px] pt-4 pb-8 max-[1180px]:w-[290px]"
        >
          {chosen.length === 0 ? (
            <Empty title="No field is chosen">
              Choose one, or mark several, to say who sees and changes it.
            </Empty>
          ) : (
            <FieldSetting key={chosen.map(idOf).join()} rules={chosen} roles={roles} />
          )}
        </aside>
      )}
    </div>
  );
}
