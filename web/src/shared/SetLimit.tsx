// Set a limit at a node: what it does, to which actions, for whom, and how far down.

import { useState } from "react";
import { ProblemError } from "../api/client";
import { type Operation, useStage } from "./changes/changeSet";
import { Dialog, DialogButtons } from "./Dialog";
import { WhomPicker } from "./pickers";
import { Button, Chip, INPUT, Labelled } from "./ui";
import { useAccount } from "./useAccounts";
import { useActions } from "./useWords";

type Whom = { role?: string; account?: string };

const EFFECTS = [
  ["stop", "Stop", "What came through this role or group ends here; other roles still count."],
  ["bar", "Bar", "Nothing gets past it, whatever else is held."],
  ["lift", "Lift", "Ends what comes from further up, and gives nothing by itself."],
] as const;

const HOW_FAR = [
  ["branch", "Here and beneath"],
  ["node", "Here only"],
  ["beneath", "Beneath only"],
] as const;

type Limit = Extract<Operation, { kind: "set-limit" }>;
type SetProps = { open: boolean; onClose: () => void; node: string; title: string; whom: Whom };

export function SetLimit({ open, onClose, node, title, whom }: SetProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`A limit on ${title}`}>
      {open && <Form node={node} whom={whom} onClose={onClose} />}
    </Dialog>
  );
}

function Form({ node, whom, onClose }: { node: string; whom: Whom; onClose: () => void }) {
  const account = useAccount(whom.account ?? "").data?.account;
  const [effect, setEffect] = useState<Limit["effect"]>("stop");
  const [applies, setApplies] = useState<Limit["applies"]>("branch");
  const every = useActions();
  const [actions, setActions] = useState<string[]>(["edit"]);
  const [to, setTo] = useState(
    whom.account ? `account ${whom.account}` : whom.role ? `role ${whom.role}` : "",
  );
  const stage = useStage();
  const problem = stage.error instanceof ProblemError ? stage.error : null;
  const [kind, id] = to.split(" ") as [Limit["to"]["kind"], string];

  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        const chosen = actions.length === every.length ? null : actions;
        const limit: Limit = { kind: "set-limit", node, to: { kind, id }, effect, applies, actions: chosen };
        stage.mutate([limit], { onSuccess: onClose });
      }}
    >
      <fieldset className="mb-3">
        <legend className="mb-1 text-sm font-semibold">What it does</legend>
        {EFFECTS.map(([value, name, meaning]) => (
          <label key={value} className="flex items-start gap-2 py-[2px] text-sm">
            <input
              type="radio"
              name="effect"
              className="mt-1 accent-rod"
              checked={effect === value}
              onChange={() => setEffect(value)}
            />
            <span>
              <strong className="font-semibold">{name}.</strong> <span className="text-ink2">{meaning}</span>
            </span>
          </label>
        ))}
      </fieldset>
      <fieldset className="mb-3">
        <legend className="mb-1 text-sm font-semibold">Which actions</legend>
        <div className="flex flex-wrap gap-1.5">
          {every.map(({ key: action, name }) => (
            <Chip
              key={action}
              on={actions.includes(action)}
              onClick={() =>
                setActions(
                  actions.includes(action) ? actions.filter((a) => a !== action) : [...actions, action],
                )
              }
            >
              {name}
            </Chip>
          ))}
          <Chip on={actions.length === every.length} onClick={() => setActions(every.map(({ key }) => key))}>
            Everything
          </Chip>
        </div>
        {problem?.at("/actions") && (
          <p role="alert" className="mt-1 text-xs text-bar">
            Choose at least one action.
          </p>
        )}
      </fieldset>
      <Labelled label="For whom">
        {(inputId) => <WhomPicker id={inputId} value={to} name={account?.name} onPick={setTo} />}
      </Labelled>
      <Labelled label="How far">
        {(inputId) => (
          <select
            id={inputId}
            value={applies}
            onChange={(event) => setApplies(event.target.value as Limit["applies"])}
            className={INPUT}
          >
            {HOW_FAR.map(([value, name]) => (
              <option key={value} value={value}>
                {name}
              </option>
            ))}
          </select>
        )}
      </Labelled>
      {problem && !problem.at("/actions") && (
        <p role="alert" className="text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={stage.isPending || actions.length === 0 || to === ""}>
          Stage it
        </Button>
      </DialogButtons>
    </form>
  );
}
