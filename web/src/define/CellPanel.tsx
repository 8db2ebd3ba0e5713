// The right side of the board: the chosen cell as a sentence, what surrounds it, and who holds the role.

import { RadioGroup } from "radix-ui";
import { colourOf } from "../cloth/colours";
import { extentSaid, Mark } from "../cloth/Mark";
import { RoleCloth } from "../cloth/RoleCloth";
import { headOf } from "../shared/capability";
import { useChangeSet } from "../shared/changes/changeSet";
import { NameLink } from "../shared/NameMenu";
import { useDuty } from "../shared/session";
import { TextLink } from "../shared/TextLink";
import { count } from "../shared/time";
import type { Catalogue, Role } from "../shared/useRoles";
import { choices } from "./choices";
import { Expected } from "./Expected";
import { Part } from "./Part";
import { Preview, StagedChanges } from "./Preview";
import { type Cell, effective, sentence } from "./sentence";
import { useCellContext } from "./useBoard";

type PanelProps = {
  role: Role;
  cell: Cell;
  catalogue: Catalogue;
  roles: Map<string, Role>;
  /** How many cells are selected, this one among them: what is chosen here is said in all of them. */
  selected: number;
  onSetAnswer: (says: string | null) => void;
};

export function CellPanel({ role, cell, catalogue, roles, selected, onSetAnswer }: PanelProps) {
  const context = useCellContext(role.key, cell.capability).data;
  const limits = useDuty("limits.set");
  const { before, stress, after } = sentence(role, cell, catalogue);
  const told = comesFromBaseline(cell) ? cell.baseline_from : null;
  const also = context?.also.filter(({ role: key }) => key !== told) ?? [];
  return (
    <aside
      aria-label="The chosen answer"
      className="w-[300px] shrink-0 max-[1180px]:w-[252px] max-[1180px]:px-[12px] overflow-y-auto border-l border-line bg-paper px-[18px] pt-[30px] pb-8"
    >
      <p className="text-xs text-ink2">{headOf(cell.capability, catalogue)}</p>
      <p className="mt-1 text-sentence leading-[1.42]" data-testid="sentence">
        {before}
        <mark className="bg-transparent bg-[linear-gradient(transparent_62%,#f1dcae_62%)] font-bold text-ink">
          {stress}
        </mark>
        {after}
      </p>
      {selected > 1 && (
        <p className="mt-3 text-read text-ink2">
          What you choose is said in all {selected} selected, where it can be said.
        </p>
      )}
      <Picker role={role} cell={cell} onSetAnswer={onSetAnswer} />
      <StagedChange role={role} cell={cell} />
      {role.baseline && (
        <p className="mt-3 text-read text-ink2">What is said here reaches {reached(role)}.</p>
      )}
      <Origin cell={cell} roles={roles} role={role} />
      <Risk cell={cell} catalogue={catalogue} />
      {context && (
        <>
          <Part title="Also given by">
            {also.length === 0 && <p>No other role.</p>}
            {also.map(({ role: key, says }) => (
              <p key={key} className="flex items-center gap-1.5 py-[1px]">
                <RoleCloth cloth={roles.get(key)?.cloth} size={14} />
                <span>
                  {roles.get(key)?.name}
                  {says === "yes" ? "" : `, ${says}`}
                </span>
              </p>
            ))}
          </Part>
          <p className="mt-1 text-read">
            <TextLink to={`/define/capability?cell=${cell.capability}`}>
              What every role says about it
            </TextLink>
          </p>
          <Part title="Narrowed by">
            {context.narrowed.length === 0 && <p>No limit on this role.</p>}
            {context.narrowed.map((text) => (
              <p key={text}>{text}</p>
            ))}
            {limits && (
              <p className="mt-1">
                <TextLink to={`/limit?role=${role.key}`}>Where {role.name} is narrowed</TextLink>
              </p>
            )}
          </Part>
          <Expected role={role} cell={cell} catalogue={catalogue} />
          {role.baseline === "" && role.holders !== null && (
            <Part title={`Held by ${count(role.holders, "account")}`}>
              {context.holders.length === 0 && <p>Nobody yet. Give it to someone in Assign.</p>}
              {context.holders.map((holder) => (
                <p key={holder.id}>
                  <NameLink of={{ account: holder.id }} name={holder.name} />
                </p>
              ))}
              {role.holders > context.holders.length && context.holders.length > 0 && (
                <p>
                  <TextLink to={`/assign?role=${role.key}`}>
                    and {role.holders - context.holders.length} more
                  </TextLink>
                </p>
              )}
            </Part>
          )}
        </>
      )}
    </aside>
  );
}

function reached({ baseline, holders }: Role): string {
  const accounts = holders === null ? "every account" : count(holders, "account");
  return baseline === "everyone" ? `every visitor and ${accounts}` : accounts;
}

const NOTHING = "nothing";

function Picker({ role, cell, onSetAnswer }: Pick<PanelProps, "role" | "cell" | "onSetAnswer">) {
  return (
    <RadioGroup.Root
      aria-label="What this role says"
      orientation="horizontal"
      value={cell.said ?? NOTHING}
      onValueChange={(word) => onSetAnswer(word === NOTHING ? null : word)}
      className="mt-3 flex overflow-hidden rounded border border-line"
    >
      {choices(cell).map(({ says, name, key, extent }) => (
        <RadioGroup.Item
          key={name}
          value={says ?? NOTHING}
          title={`Key: ${key}`}
          className="flex flex-1 flex-col items-center border-r border-linen2 pt-[6px] pb-[5px] text-micro last:border-r-0 hover:bg-linen data-[state=checked]:bg-chosen data-[state=checked]:font-semibold max-[1180px]:text-nano"
        >
          <span aria-hidden="true">
            <Mark extent={extent} colour={colourOf(role.cloth)} />
          </span>
          {name}
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}

/** Whether it is told as coming from the baseline, where people ask why they cannot take it away. */
function comesFromBaseline(cell: Cell): boolean {
  return effective(cell).source !== "built-on" && cell.baseline !== null;
}

function Origin({ role, cell, roles }: { role: Role; cell: Cell; roles: Map<string, Role> }) {
  const { source } = effective(cell);
  const name = (key: string | null) => roles.get(key ?? "")?.name ?? key;
  if (source === "built-on") {
    return (
      <Part title="Where it comes from">
        <p>
          {role.name} says nothing itself; this comes from <strong>{name(cell.inherited_from)}</strong>, which
          it builds on. Withhold it to stop it here.
        </p>
      </Part>
    );
  }
  if (comesFromBaseline(cell)) {
    return (
      <Part title="From the baseline">
        <p className="flex items-start gap-1.5">
          <Mark
            extent={extentSaid(cell.baseline)}
            colour={colourOf(roles.get(cell.baseline_from ?? "")?.cloth)}
            inherited
          />
          <span>
            {cell.baseline === "barred" ? (
              <>
                <strong>{name(cell.baseline_from)}</strong> bars it, and a bar beats every grant. To give it
                here, change{" "}
              </>
            ) : (
              <>
                <strong>{name(cell.baseline_from)}</strong> has it, so every holder has it too. It cannot be
                taken away here alone: change{" "}
              </>
            )}
            <TextLink to={`/define/${cell.baseline_from}?cell=${cell.capability}`}>the baseline</TextLink>, or
            bar it.
          </span>
        </p>
      </Part>
    );
  }
  return null;
}

function StagedChange({ role, cell }: { role: Role; cell: Cell }) {
  const operations = useChangeSet().data?.operations ?? [];
  const op = operations.find(
    ({ data }) => data.kind === "set-answer" && data.role === role.key && data.capability === cell.capability,
  );
  return op ? (
    <Part title="Staged change">
      <p>
        {op.was} → {op.now}
      </p>
      {operations.length > 1 && (
        <p className="text-ink2">
          By itself: <Preview role={role.key} answers={new Map([[cell.capability, cell.said]])} />
        </p>
      )}
      {operations.length === 1 && role.baseline === "" && (
        <p className="text-ink2">
          <StagedChanges />
        </p>
      )}
    </Part>
  ) : null;
}

function Risk({ cell, catalogue }: { cell: Cell; catalogue: Catalogue }) {
  const risk = catalogue.duties.find((duty) => duty.key === cell.capability)?.risk;
  return risk ? (
    <Part title="Take care">
      <p>{risk}</p>
    </Part>
  ) : null;
}
