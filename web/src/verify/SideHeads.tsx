// Who stands beside whom: name, roles and moment, and the way in.
import { RoleCloth } from "../cloth/RoleCloth";
import type { StandInAs } from "../shared/session";
import { Button } from "../shared/ui";
import { type Side, whomOfSide } from "./sides";

type Props = {
  sides: Side[];
  onLeave: (side: number) => void;
  onStandIn: (way: StandInAs) => void;
  busy: boolean;
  /** How wide what stands before the columns is. */
  first: string;
};

/** What stands before the columns: the things that are asked. */
export const FIRST = "minmax(200px, 280px)";

/** One column for each, as wide as all others. */
export function columnsOf(sides: unknown[], first = ""): { gridTemplateColumns: string } {
  return { gridTemplateColumns: `${first} repeat(${sides.length}, minmax(0, 1fr))` };
}

export function SideHeads({ sides, onLeave, onStandIn, busy, first }: Props) {
  return (
    <div className="sticky top-0 z-10 grid border-b border-line bg-linen" style={columnsOf(sides, first)}>
      {first && <span />}
      {sides.map(({ side, name, note, roles }, i) => (
        <div
          key={side}
          className="flex items-center gap-2.5 border-l border-line px-[18px] py-3 first:border-l-0"
        >
          <span className="flex shrink-0 gap-1">
            {roles.map((role) => (
              <RoleCloth key={role.key} cloth={role.cloth} size={18} />
            ))}
          </span>
          <span className="min-w-0 flex-1 leading-tight">
            <span className="block truncate text-read font-semibold">{name}</span>
            <span className="block truncate text-xs text-ink2">
              {[roles.map((role) => role.name).join(", "), note].filter(Boolean).join(" · ") || "no role"}
            </span>
          </span>
          <Button
            disabled={busy}
            aria-label={`Stand in for ${name}${note && `, ${note}`}`}
            onClick={() => onStandIn(whomOfSide(side))}
          >
            Stand in
          </Button>
          {sides.length > 2 && (
            <Button look="quiet" className="px-1!" aria-label={`Without ${name}`} onClick={() => onLeave(i)}>
              ×
            </Button>
          )}
        </div>
      ))}
    </div>
  );
}
