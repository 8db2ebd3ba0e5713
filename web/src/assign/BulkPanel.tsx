// What is to be done to the accounts chosen: told exactly before it is staged.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Shapes } from "../api/client";
import { useStageMany } from "../shared/changes/changeSet";
import { HowFar } from "../shared/changes/HowFar";
import { keys } from "../shared/keys";
import { GroupPicker, RolePicker } from "../shared/pickers";
import { ScopeButton } from "../shared/scope/ScopeButton";
import { EMPTY_SCOPE, type Scope } from "../shared/scope/scope";
import { useDuty } from "../shared/session";
import { count } from "../shared/time";
import { Button, ErrorNotice, Labelled } from "../shared/ui";
import { howMany, naming, type Selected } from "./chosen";
import { Moment } from "./When";

type Action = Shapes["ManyInputRequest"]["action"];
type Deed = { action: Action; name: string; needs: ("role" | "group" | "scope" | "ends")[]; duty: string };

const DEEDS: Deed[] = [
  { action: "give-role", name: "Give a role", needs: ["role", "scope", "ends"], duty: "roles.assign" },
  { action: "take-role", name: "Take a role", needs: ["role"], duty: "roles.assign" },
  { action: "join", name: "Into a group", needs: ["group"], duty: "roles.assign" },
  { action: "leave", name: "Out of a group", needs: ["group"], duty: "roles.assign" },
  { action: "set-end", name: "Set an end", needs: ["role", "ends"], duty: "roles.assign" },
  { action: "disable", name: "Disable", needs: [], duty: "accounts.disable" },
  { action: "enable", name: "Enable", needs: [], duty: "accounts.disable" },
];

export function BulkPanel({ selected, onDone }: { selected: Selected; onDone: () => void }) {
  const [deed, setDeed] = useState<Deed | null>(null);
  const duties = { "roles.assign": useDuty("roles.assign"), "accounts.disable": useDuty("accounts.disable") };
  const offered = DEEDS.filter(({ duty }) => duties[duty as keyof typeof duties]);
  return (
    <section
      aria-label="What to do with those chosen"
      className="w-[300px] shrink-0 overflow-y-auto border-l border-line bg-paper px-5 pt-[30px] pb-6"
    >
      <h2 className="text-lg!">{count(howMany(selected), "account")} chosen</h2>
      <p className="mb-3 text-xs text-ink2">
        {selected.all ? "All that match." : "Shift with the arrows chooses more."}{" "}
        <button type="button" className="underline" onClick={onDone}>
          Choose none
        </button>
      </p>
      <div className="grid grid-cols-2 gap-2">
        {offered.map((one) => (
          <Button
            key={one.action}
            look={deed?.action === one.action ? "main" : "plain"}
            onClick={() => setDeed(one)}
          >
            {one.name}
          </Button>
        ))}
      </div>
      {deed && <Doing key={deed.action} deed={deed} selected={selected} onDone={onDone} />}
    </section>
  );
}

function Doing({ deed, selected, onDone }: { deed: Deed; selected: Selected; onDone: () => void }) {
  const [role, setRole] = useState("");
  const [group, setGroup] = useState("");
  const [scope, setScope] = useState<Scope>(EMPTY_SCOPE);
  const [ends, setEnds] = useState<string | null>(null);
  const stage = useStageMany();
  const needs = (what: Deed["needs"][number]) => deed.needs.includes(what);
  const ready = (!needs("role") || role !== "") && (!needs("group") || group !== "");
  const asked: Shapes["ManyInputRequest"] = {
    ...naming(selected),
    action: deed.action,
    ...(needs("role") ? { role } : {}),
    ...(needs("group") ? { group } : {}),
    ...(needs("scope") ? { scope } : {}),
    ...(needs("ends") ? { ends } : {}),
  };
  return (
    <div className="mt-5">
      <h3 className="mb-2 text-base font-bold">{deed.name}</h3>
      {needs("role") && (
        <Labelled label="Role">{(id) => <RolePicker id={id} value={role} onPick={setRole} />}</Labelled>
      )}
      {needs("group") && (
        <Labelled label="Group">{(id) => <GroupPicker id={id} value={group} onPick={setGroup} />}</Labelled>
      )}
      {needs("scope") && <ScopeButton scope={scope} onChange={setScope} />}
      {needs("ends") && <Moment label="Until" none="No end" value={ends} onChange={setEnds} />}
      {ready && <Foreseen asked={asked} />}
      <ErrorNotice error={stage.error} />
      <HowFar underWay={stage.isPending} what="Staging" />
      <div className="mt-3 flex gap-2">
        <Button
          look="main"
          disabled={!ready || stage.isPending}
          onClick={() => stage.mutate(asked, { onSuccess: onDone })}
        >
          Stage it
        </Button>
      </div>
    </div>
  );
}

/** Who would gain, who would lose, what would break, and who stays as they are. */
function Foreseen({ asked }: { asked: Shapes["ManyInputRequest"] }) {
  const preview = useQuery({
    queryKey: keys.manyPreview(asked),
    queryFn: () => answer(api.POST("/api/accounts/many/preview", { body: asked })),
    retry: false,
  });
  if (preview.error) return <ErrorNotice error={preview.error} />;
  if (!preview.data) return <p className="text-sm text-ink2">Counting whom it touches…</p>;
  const { gain, lose, gaining, losing, keeps, breaks, chosen } = preview.data;
  return (
    <div className="text-sm" aria-live="polite">
      {keeps.length > 0 && (
        <p className="mb-2">
          {keeps.map(({ name, why }) => `${name} ${why}`).join("; ")}
          {keeps.length === 8 && chosen > 8 ? "; and perhaps more" : ""}.
        </p>
      )}
      <p className="mb-1">
        <strong>{gain ? `${count(gain, "account")} gain${gain === 1 ? "s" : ""}` : "Nobody gains"}</strong>,{" "}
        {lose ? `${count(lose, "account")} lose${lose === 1 ? "s" : ""}` : "nobody loses"}
      </p>
      <Names title="Gain" names={gaining} all={gain} />
      <Names title="Lose" names={losing} all={lose} />
      {breaks !== null && (
        <p className="mt-2 border-t border-line pt-2">
          {breaks.length === 0
            ? "No expectation would break"
            : `${count(breaks.length, "expectation")} would break: ${breaks.slice(0, 3).join("; ")}`}
        </p>
      )}
    </div>
  );
}

function Names({ title, names, all }: { title: string; names: string[]; all: number }) {
  if (names.length === 0) return null;
  const more = all - names.length;
  return (
    <p className="text-xs text-ink2">
      {title}: {names.join(", ")}
      {more > 0 ? ` and ${more} more` : ""}
    </p>
  );
}
