// What is chosen in the tree, and the ways to set it: by a button or its key, with what that would do beside it.
import { useEffect, useState } from "react";
import { useOperationsTouched, useStage } from "../shared/changes/changeSet";
import { count } from "../shared/time";
import { Button, Chip, ErrorNotice } from "../shared/ui";
import { useHotkey } from "../shared/useHotkey";
import { type Applies, type Effect, limited, settingCells, useSettingCells } from "./useCells";
import type { Whom } from "./useLimits";

const EFFECTS: { effect: Effect; name: string; key: string; means: string }[] = [
  { effect: "stop", name: "Stop", key: "s", means: "what came this way ends here" },
  { effect: "bar", name: "Bar", key: "b", means: "nothing gets past it" },
  { effect: "lift", name: "Lift", key: "l", means: "ends what comes from further up" },
  { effect: null, name: "Let go", key: "backspace", means: "takes away what is set here" },
];

const FAR: [Applies, string][] = [
  ["branch", "Here and beneath"],
  ["node", "Here only"],
  ["beneath", "Beneath only"],
];

type SetCellsProps = {
  whom: Whom;
  name: string;
  nodes: { id: string; title: string }[];
  actions: { key: string; name: string }[];
  whole: boolean;
};

export function SetCells({ whom, name, nodes, actions, whole }: SetCellsProps) {
  const to = limited(whom);
  const [applies, apply] = useState<Applies>("branch");
  const [meant, mean] = useState<Effect | undefined>(undefined);
  const stage = useStage();
  const chosen = { nodes: nodes.map(({ id }) => id), actions: actions.map(({ key }) => key) };
  const what = JSON.stringify([chosen, whom]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was meant for other cells is not meant for these
  useEffect(() => mean(undefined), [what]);
  const setting = to && meant !== undefined ? { to, ...chosen, effect: meant, applies } : null;
  const operations = useSettingCells(setting).data ?? [];
  const touched = useOperationsTouched(operations, operations.length > 0);

  async function set(effect: Effect) {
    if (!to || nodes.length === 0) return;
    const made = await settingCells({ to, ...chosen, effect, applies });
    if (made.length > 0) stage.mutate(made);
  }
  useHotkey({ key: "s" }, () => set("stop"));
  useHotkey({ key: "b" }, () => set("bar"));
  useHotkey({ key: "l" }, () => set("lift"));
  useHotkey({ key: "backspace" }, () => set(null));

  if (!to)
    return (
      <p className="text-sm text-ink2">A limit is set for one role, group or account. Choose one above.</p>
    );
  return (
    <section aria-label="Set a limit" className="mt-4">
      <h2 className="mb-1 text-xs font-semibold text-ink2">Set a limit for {name}</h2>
      <p role="status" className="text-read">
        {whole ? "Everything" : named(actions, "action")} {nodes.length === 1 ? "at" : "at each of"}{" "}
        {named(nodes, "page")}
      </p>
      <span className="mt-1.5 flex flex-wrap gap-1">
        {FAR.map(([far, words]) => (
          <Chip key={far} on={far === applies} onClick={() => apply(far)}>
            {words}
          </Chip>
        ))}
      </span>
      <span className="mt-2 flex flex-wrap gap-1.5">
        {EFFECTS.map(({ effect, name: verb, key, means }) => (
          <Button
            key={verb}
            title={`${verb} (${key}): ${means}`}
            disabled={stage.isPending}
            onFocus={() => mean(effect)}
            onMouseEnter={() => mean(effect)}
            onClick={() => set(effect)}
          >
            {verb}
          </Button>
        ))}
      </span>
      <p role="status" className="mt-1.5 min-h-[2.6em] text-xs text-ink2">
        {setting && touched.data && operations.length > 0 ? would(touched.data) : ""}
        {setting && operations.length === 0 ? "It is so already." : ""}
      </p>
      <ErrorNotice error={stage.error} />
    </section>
  );
}

function would({
  gain,
  lose,
  breaks,
}: {
  gain: number | null;
  lose: number | null;
  breaks: string[] | null;
}): string {
  const who = [
    lose ? `${count(lose, "account")} would lose something` : "",
    gain ? `${count(gain, "account")} would gain something` : "",
  ].filter(Boolean);
  const people = gain === null ? "" : who.join(", ") || "Nobody would gain or lose anything";
  const broken = breaks?.length ? `${count(breaks.length, "expectation")} would break` : "";
  return [people, broken].filter(Boolean).join("; ");
}

const FEW = 3;

function named(things: { name?: string; title?: string }[], one: string): string {
  const names = things.slice(0, FEW).map(({ name, title }) => name ?? title ?? "");
  if (things.length > FEW) return count(things.length, one);
  return names.join(", ");
}
