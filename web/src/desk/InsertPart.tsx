// Where a new part goes in: a line between two parts that opens a menu of what may be put there, or a button at the end.
import type { ReactElement } from "react";
import { Menu, MenuItem } from "../shared/Menu";
import { Button } from "../shared/ui";
import type { Page } from "./useDesk";

type Insertable = Page["insertable"][number];
type InsertProps = {
  insertable: Insertable[];
  nameOf: (kind: string) => string;
  onInsert: (part: Insertable) => void;
};

/** At the end of a page. */
export function InsertAtEnd(props: InsertProps) {
  return <Kinds {...props} trigger={<Button look="quiet">Add a part</Button>} />;
}

/** In between: seen where the pointer is, or beside the chosen part; only there it takes a turn of Tab. */
export function InsertBefore({ before, near, ...rest }: InsertProps & { before: string; near: boolean }) {
  return (
    <div className="absolute inset-x-0 -top-[14px] z-10">
      <Kinds
        {...rest}
        trigger={
          <button
            type="button"
            tabIndex={near ? 0 : -1}
            aria-label={`Add a part before ${before}`}
            className={`group flex h-[14px] w-full items-center ${near ? "opacity-100" : "opacity-0"} hover:opacity-100 focus-visible:opacity-100 data-[state=open]:opacity-100`}
          >
            <span className="h-0 flex-1 border-t border-dashed border-line2 group-hover:border-brass" />
            <span className="px-1.5 text-tiny text-ink2 group-hover:underline">add here</span>
          </button>
        }
      />
    </div>
  );
}

function Kinds({ insertable, nameOf, onInsert, trigger }: InsertProps & { trigger: ReactElement }) {
  return (
    <Menu align="start" trigger={trigger}>
      {insertable.map((part) => (
        <MenuItem key={part.kind} onSelect={() => onInsert(part)}>
          {nameOf(part.kind)}
        </MenuItem>
      ))}
    </Menu>
  );
}
