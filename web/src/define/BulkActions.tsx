// Changing many answers at once: named actions on what is selected or shown, seen on the board before they are staged.
import { useState } from "react";
import type { Operation } from "../shared/changes/changeSet";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Menu, MenuItem } from "../shared/Menu";
import { RolePicker } from "../shared/pickers";
import { count } from "../shared/time";
import { Button, Chip, ErrorNotice, Labelled } from "../shared/ui";
import { type Catalogue, useRoleMap } from "../shared/useRoles";
import { Preview } from "./Preview";
import { type Answers, asButOwn, PATTERNS, sameAs } from "./patterns";
import type { Cell } from "./sentence";
import { type Board, useBoard } from "./useBoard";

export type Proposal = {
  name: string;
  answers: Answers;
  /** What would be staged besides answers: what a role builds on, its lists of components and facets. */
  also?: Operation[];
};

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
  const [borrowing, borrow] = useState(false);
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
        <MenuItem onSelect={() => borrow(true)}>As another role, but own only…</MenuItem>
        {type && <MenuItem onSelect={() => copy(true)}>As for {type.plural}, for other kinds…</MenuItem>}
      </Menu>
      <AsAnother
        open={borrowing}
        onClose={() => borrow(false)}
        onChosen={(name, board) =>
          onPropose({
            name: `As ${name}, but own only`,
            answers: asButOwn(meant, new Map(board.cells.map((cell) => [cell.capability, cell]))),
          })
        }
      />
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

type AsAnotherProps = {
  open: boolean;
  onClose: () => void;
  onChosen: (name: string, board: Board) => void;
};

function AsAnother({ open, onClose, onChosen }: AsAnotherProps) {
  const [role, choose] = useState("");
  const board = useBoard(open ? role : "");
  const name = useRoleMap().get(role)?.name ?? role;
  return (
    <Dialog open={open} onClose={onClose} title="As another role, but own only">
      <Labelled label="Role" hint="What its holders may do, this one may with what they wrote themselves.">
        {(id, by) => <RolePicker id={id} describedBy={by} value={role} onPick={choose} />}
      </Labelled>
      <ErrorNotice error={board.error} />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="main"
          disabled={!board.data}
          onClick={() => {
            if (board.data) onChosen(name, board.data);
            onClose();
          }}
        >
          Show on the board
        </Button>
      </DialogButtons>
    </Dialog>
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
  const answers = proposal.answers.size;
  const n = answers + (proposal.also?.length ?? 0);
  return (
    <div
      role="status"
      className="sticky -top-[28px] z-20 my-1 flex items-center gap-3 rounded border border-brass bg-[#fbf3df] px-3 py-1.5 text-sm"
    >
      <span>
        <strong>{proposal.name}:</strong>{" "}
        {n === 0 ? "nothing would change." : `${count(n, n === answers ? "answer" : "thing")} would change. `}
        {answers > 0 && <Preview role={role} answers={proposal.answers} />}
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
