// One answer of a role outside its board: the mark, and a menu to say something else.
import { colourOf } from "../cloth/colours";
import { extentSaid, Mark } from "../cloth/Mark";
import { Menu, MenuItem, MenuSeparator } from "../shared/Menu";
import type { Catalogue, Role } from "../shared/useRoles";
import { choices } from "./choices";
import { type Cell, effective, plain, sentence } from "./sentence";

type MenuProps = {
  role: Role;
  cell: Cell;
  catalogue: Catalogue;
  /** Other roles that could say the same. */
  others?: Role[];
  onSetAnswer: (role: Role, says: string | null) => void;
};

export function AnswerMenu({ role, cell, catalogue, others = [], onSetAnswer }: MenuProps) {
  const { says, source } = effective(cell);
  const text = plain(sentence(role, cell, catalogue));
  return (
    <Menu
      align="start"
      trigger={
        <button
          type="button"
          title={text}
          className="flex items-center gap-2 rounded px-1.5 py-[1px] text-left hover:bg-linen2"
        >
          <span aria-hidden="true">
            <Mark
              extent={extentSaid(says)}
              colour={colourOf(role.cloth)}
              inherited={source !== "own"}
              staged={cell.staged}
            />
          </span>
          <span className="text-note text-ink2">{says ?? ""}</span>
          <span className="sr-only">{text}</span>
        </button>
      }
    >
      {choices(cell).map(({ says: word, name, extent }) => (
        <MenuItem key={name} className="px-2 py-[3px]" onSelect={() => onSetAnswer(role, word)}>
          <span className="flex items-center gap-2">
            <span aria-hidden="true">
              <Mark extent={extent} colour={colourOf(role.cloth)} />
            </span>
            {name}
          </span>
        </MenuItem>
      ))}
      {others.length > 0 && <MenuSeparator />}
      {others.map((other) => (
        <MenuItem key={other.key} className="px-2 py-1" onSelect={() => onSetAnswer(other, cell.said)}>
          Say the same in {other.name}
        </MenuItem>
      ))}
    </Menu>
  );
}
