// One answer of a role outside its board: the mark, and a menu to say something else.
import { DropdownMenu } from "radix-ui";
import { colourOf } from "../cloth/colours";
import { hangSaid, Mark } from "../cloth/Mark";
import type { Catalogue, Role } from "../shared/useRoles";
import { choices } from "./choices";
import { type Cell, effective, plain, sentence } from "./sentence";

type MenuProps = {
  role: Role;
  cell: Cell;
  catalogue: Catalogue;
  /** Other roles that could say the same. */
  others?: Role[];
  onSay: (role: Role, says: string | null) => void;
};

export function AnswerMenu({ role, cell, catalogue, others = [], onSay }: MenuProps) {
  const { says, source } = effective(cell);
  const text = plain(sentence(role, cell, catalogue));
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        title={text}
        className="flex items-center gap-2 rounded px-1.5 py-[1px] text-left hover:bg-linen2"
      >
        <span aria-hidden="true">
          <Mark
            hang={hangSaid(says)}
            colour={colourOf(role.cloth)}
            inherited={source !== "own"}
            staged={cell.staged}
          />
        </span>
        <span className="text-[12.5px] text-ink2">{says ?? ""}</span>
        <span className="sr-only">{text}</span>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={4}
          className="z-50 min-w-[190px] rounded-md border border-line bg-paper p-1 text-sm shadow-xl"
        >
          {choices(cell).map(({ says: word, name, hang }) => (
            <DropdownMenu.Item
              key={name}
              onSelect={() => onSay(role, word)}
              className="flex items-center gap-2 rounded px-2 py-[3px] outline-none data-highlighted:bg-chosen"
            >
              <span aria-hidden="true">
                <Mark hang={hang} colour={colourOf(role.cloth)} />
              </span>
              {name}
            </DropdownMenu.Item>
          ))}
          {others.length > 0 && <DropdownMenu.Separator className="my-1 border-t border-linen2" />}
          {others.map((other) => (
            <DropdownMenu.Item
              key={other.key}
              onSelect={() => onSay(other, cell.said)}
              className="rounded px-2 py-1 outline-none data-highlighted:bg-chosen"
            >
              Say the same in {other.name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
