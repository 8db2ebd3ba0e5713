// Limit: "What may [role, group, account, visitor] do where?", then fields, then every limit there is.
import { Tabs } from "radix-ui";
import { useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import { useDuty } from "../shared/session";
import { TextLink } from "../shared/TextLink";
import type { TreeName } from "../shared/tree/nodes";
import { ErrorNotice, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import { type Role, useRoles } from "../shared/useRoles";
import { AllLimits } from "./AllLimits";
import { AllLocks } from "./AllLocks";
import { FieldRules } from "./FieldRules";
import { Leftovers } from "./Leftovers";
import { type Cells, MarkedTree } from "./MarkedTree";
import { PlacePanel } from "./PlacePanel";
import { SetCells } from "./SetCells";
import type { Whom } from "./useLimits";
import { useWhomName, WhomPicker } from "./WhomPicker";

const TABS: Record<string, string> = {
  content: "Content branches",
  media: "Media folders",
  fields: "Fields",
  leftovers: "Leftovers",
  locks: "Locks",
  all: "All limits",
};

/** What is asked in the tabs that are about everybody. */
const HEADS: Record<string, string> = {
  fields: "Who has which field?",
  locks: "What is locked?",
  all: "What is narrowed?",
};

export function LimitPlace() {
  const roles = useRoles();
  const [params, setParams] = useSearchParams();
  const [node, setNode] = useParam("node");
  const seesMedia = useDuty("media.open");
  const seesDesk = useDuty("desk.open");
  const defines = useDuty("roles.define");
  const tab = params.get("tab") ?? "content";
  const [cells, setCells] = useState<Cells>({ nodes: [], actions: [], whole: true });
  const whom = useMemo(() => whomOf(params, roles.data ?? []), [params, roles.data]);
  const name = useWhomName(whom);
  if (roles.error) return <ErrorNotice error={roles.error} again={roles.refetch} />;
  if (!roles.data) return <Loading what="the roles" />;
  const asked = params.get("action") ?? "edit";

  function change(changes: Record<string, string>) {
    const next = new URLSearchParams(window.location.search);
    for (const [key, value] of Object.entries(changes)) {
      if (value) next.set(key, value);
      else next.delete(key);
    }
    // Choosing what is chosen already leaves no second step to go back through.
    if (`?${next}` !== window.location.search) setParams(next);
  }

  function choose(next: Whom) {
    const changed = new URLSearchParams(window.location.search);
    for (const key of ["role", "account", "group", "visitor"]) changed.delete(key);
    for (const role of next.roles ?? []) changed.append("role", role);
    if (next.account) changed.set("account", next.account);
    if (next.group) changed.set("group", next.group);
    if (next.visitor) changed.set("visitor", "true");
    setParams(changed);
  }

  return (
    <>
      <section className="flex min-w-0 flex-1 flex-col px-[26px] pt-[30px]">
        {HEADS[tab] ? (
          <h1 className="py-[3px]">{HEADS[tab]}</h1>
        ) : (
          <h1 className="flex items-center gap-3">
            What {tab === "leftovers" ? "can" : "may"}{" "}
            <WhomPicker whom={whom} onPick={(next) => choose(next)} />{" "}
            {tab === "leftovers" ? "still change?" : "do where?"}
            {defines && whom.roles?.length === 1 && (
              <TextLink className="text-sm font-normal" to={`/define/${whom.roles[0]}`}>
                Its board
              </TextLink>
            )}
          </h1>
        )}
        <Tabs.Root
          value={tab}
          onValueChange={(next) => change({ tab: next, node: "" })}
          className="flex min-h-0 flex-1 flex-col"
        >
          <Tabs.List aria-label="Kinds of limit" className="mt-3 flex gap-5 border-b border-line">
            {Object.entries(TABS)
              .filter(([key]) => (key !== "media" || seesMedia) && (key !== "locks" || seesDesk))
              .map(([key, name]) => (
                <Tabs.Trigger
                  key={key}
                  value={key}
                  className="-mb-px border-b-[3px] border-transparent pt-1 pb-1.5 text-ink2 hover:text-ink data-[state=active]:border-brass data-[state=active]:font-bold data-[state=active]:text-ink"
                >
                  {name}
                </Tabs.Trigger>
              ))}
          </Tabs.List>
          <Tabs.Content value={tab} tabIndex={-1} className="flex min-h-0 flex-1 flex-col">
            {tab === "fields" && <FieldRules roles={roles.data} />}
            {tab === "leftovers" && <Leftovers whom={whom} name={name} />}
            {tab === "locks" && <AllLocks />}
            {tab === "all" && <AllLimits onOpen={(limit) => change({ tab: "content", node: limit.node })} />}
            {(tab === "content" || tab === "media") && (
              <MarkedTree
                key={tab}
                whom={whom}
                tree={tab as TreeName}
                chosen={node}
                onChoose={setNode}
                onCells={setCells}
              />
            )}
          </Tabs.Content>
        </Tabs.Root>
      </section>
      {(tab === "content" || tab === "media") && (
        <PlacePanel
          node={node}
          action={(!cells.whole && cells.actions[0]?.key) || asked}
          onGo={setNode}
          setting={node && cells.nodes.length > 0 ? <SetCells whom={whom} name={name} {...cells} /> : null}
        />
      )}
    </>
  );
}

/** Whom the address names; the first role where it names nobody. */
function whomOf(params: URLSearchParams, roles: Role[]): Whom {
  const [account, group] = [params.get("account"), params.get("group")];
  if (account) return { account };
  if (group) return { group };
  if (params.get("visitor")) return { visitor: true };
  const named = params.getAll("role");
  const first = roles.find(({ baseline }) => !baseline)?.key ?? roles[0]?.key ?? "";
  return { roles: named.length > 0 ? named : [first] };
}
