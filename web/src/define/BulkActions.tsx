// Changing many answers at once: named actions on what is selected or shown, seen on the board before they are staged.
import { useState } from "react";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Menu, MenuItem } from "../shared/Menu";
import { count } from "../shared/time";
import { Button, Chip } from "../shared/ui";
import type { Catalogue } from "../shared/useRoles";
import { Preview } from "./Preview";
import { type Answers, PATTERNS, sameAs } from "./patterns";
import type { Cell } from "./sentence";

export type Proposal = { name: string; answers: Answers };

type BulkActionsProps = {
  cells: Map<string, Cell>;
  /** The cells an action is for: those selected, or all that are shown. */
  meant: Cell[];
  selected: boolean;
  /** The kind of the current row; none on a row of duties. */
  kind: string | null;
  catalogue: Catalogue;
  onPropose: (proposal: Proposal) => void;
};

export function BulkActions({ cells, meant, selected, kind, catalogue, onPropose }: BulkActionsProps) {
  const [copying, copy] = useState(false);
  const type = catalogue.types.find(({ key }) => key === kind);
  return (
    <>
      <Menu
        label={selected ? `In ${meant.length} selected` : `In all ${meant.length} shown`}
        trigger={<Chip>Change many</Chip>}
      >
        {PATTERNS.map(({ name, answers }) => (
          <MenuItem key={name} onSelect={() => onPropose({ name, answers: answers(meant) })}>
            {name}
          </MenuItem>
        ))}
        {type && <MenuItem onSelect={() => copy(true)}>As for {type.plural}, for other kinds…</MenuItem>}
      </Menu>
      {type && (
        <OtherKinds
          open={copying}
          onClose={() => copy(false)}
          kind={type}
          catalogue={catalogue}
          onChosen={(others) =>
            onPropose({
              name: `As for ${type.plural}`,
              answers: sameAs(type.key, others, cells, catalogue),
            })
          }
        />
      )}
    </>
  );
}

type OtherProps = {
  open: boolean;
  onClose: () => void;
  kind: Catalogue["types"][number];
  catalogue: Catalogue;
  onChosen: (others: string[]) => void;
};

function OtherKinds({ open, onClose, kind, catalogue, onChosen }: OtherProps) {
  const [chosen, choose] = useState<string[]>([]);
  const others = catalogue.types.filter(({ tree, key }) => tree === kind.tree && key !== kind.key);
  return (
    <Dialog open={open} onClose={onClose} title={`As for ${kind.plural}, for other kinds`}>
      <fieldset className="grid grid-cols-2 gap-x-4">
        <legend className="sr-only">Kinds</legend>
        {others.map(({ key, name }) => (
          <label key={key} className="flex items-center gap-2 py-1 text-sm">
            <input
              type="checkbox"
              checked={chosen.includes(key)}
              onChange={(event) =>
                choose(event.target.checked ? [...chosen, key] : chosen.filter((one) => one !== key))
              }
            />
            {name}
          </label>
        ))}
      </fieldset>
      <DialogButtons>
        <Button onClick={() => choose(others.map(({ key }) => key))}>All of them</Button>
        <span className="flex-1" />
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="main"
          disabled={chosen.length === 0}
          onClick={() => {
            onChosen(chosen);
            onClose();
          }}
        >
          Show on the board
        </Button>
      </DialogButtons>
    </Dialog>
  );
}

type BarProps = { role: string; proposal: Proposal; onStage: () => void; onCancel: () => void };

/** What an action would change, shown on the board, to stage or to leave. */
export function ProposalBar({ role, proposal, onStage, onCancel }: BarProps) {
  const n = proposal.answers.size;
  return (
    <div
      role="status"
      className="sticky -top-[28px] z-20 my-1 flex items-center gap-3 rounded border border-brass bg-[#fbf3df] px-3 py-1.5 text-sm"
    >
      <span>
        <strong>{proposal.name}:</strong>{" "}
        {n === 0 ? "nothing would change." : `${count(n, "answer")} would change. `}
        {n > 0 && <Preview role={role} answers={proposal.answers} />}
      </span>
      <span className="flex-1" />
      <Button onClick={onCancel}>{n === 0 ? "Close" : "Leave as it is"}</Button>
      {n > 0 && (
        <Button look="main" onClick={onStage}>
          Stage {count(n, "change")}
        </Button>
      )}
    </div>
  );
}
