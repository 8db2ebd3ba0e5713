// Changing many answers at once: named actions on what is selected or shown, seen on the board before they are staged.
import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { count } from "../shared/time";
import { Button, Chip } from "../shared/ui";
import type { Catalogue } from "../shared/useRoles";
import { Preview } from "./Preview";
import { PATTERNS, type Saying, sameAs } from "./patterns";
import type { Cell } from "./sentence";

export type Proposal = { name: string; saying: Saying };

type ManyProps = {
  cells: Map<string, Cell>;
  /** The cells an action is for: those selected, or all that are shown. */
  meant: Cell[];
  selected: boolean;
  /** The kind of the current row; none on a row of duties. */
  kind: string | null;
  catalogue: Catalogue;
  onPropose: (proposal: Proposal) => void;
};

export function Many({ cells, meant, selected, kind, catalogue, onPropose }: ManyProps) {
  const [copying, copy] = useState(false);
  const type = catalogue.types.find(({ key }) => key === kind);
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <Chip>Change many</Chip>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            sideOffset={6}
            className="z-50 min-w-[250px] rounded-md border border-line bg-paper p-1 text-sm shadow-xl"
          >
            <DropdownMenu.Label className="px-2 py-1 text-xs text-ink2">
              {selected ? `In ${meant.length} selected` : `In all ${meant.length} shown`}
            </DropdownMenu.Label>
            {PATTERNS.map(({ name, say }) => (
              <DropdownMenu.Item
                key={name}
                onSelect={() => onPropose({ name, saying: say(meant) })}
                className="rounded px-2 py-1.5 outline-none data-highlighted:bg-chosen"
              >
                {name}
              </DropdownMenu.Item>
            ))}
            {type && (
              <DropdownMenu.Item
                onSelect={() => copy(true)}
                className="rounded px-2 py-1.5 outline-none data-highlighted:bg-chosen"
              >
                As for {type.plural}, for other kinds…
              </DropdownMenu.Item>
            )}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {type && (
        <OtherKinds
          open={copying}
          onClose={() => copy(false)}
          kind={type}
          catalogue={catalogue}
          onChosen={(others) =>
            onPropose({
              name: `As for ${type.plural}`,
              saying: sameAs(type.key, others, cells, catalogue),
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
  const n = proposal.saying.size;
  return (
    <div
      role="status"
      className="sticky -top-[28px] z-20 my-1 flex items-center gap-3 rounded border border-brass bg-[#fbf3df] px-3 py-1.5 text-sm"
    >
      <span>
        <strong>{proposal.name}:</strong>{" "}
        {n === 0 ? "nothing would change." : `${count(n, "answer")} would change. `}
        {n > 0 && <Preview role={role} saying={proposal.saying} />}
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
