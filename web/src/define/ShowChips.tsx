// The choices of what to show, each with how many cells it keeps.
import { Chip } from "../shared/ui";
import type { Role } from "../shared/useRoles";
import { DiffersFrom } from "./DiffersFrom";
import type { Show } from "./shows";

type Props = {
  shows: Record<string, Show>;
  show: string;
  onShow: (show: string) => void;
  /** How many there are of a choice; those of which there are none are left out. */
  countOf: (show: string) => number;
  /** The other roles this one can be held against. */
  others: Role[];
  onDiffers: (role: string) => void;
};

export function ShowChips({ shows, show, onShow, countOf, others, onDiffers }: Props) {
  return (
    <div className="mt-2 mb-1 flex flex-wrap items-center gap-[5px]">
      {Object.entries(shows).map(([key, { name }]) => {
        const n = key ? countOf(key) : 0;
        if (key && n === 0 && show !== key) return null;
        return (
          <Chip key={key} on={show === key} onClick={() => onShow(key)}>
            {name}
            {n > 0 && <span className="figures font-normal">{n}</span>}
          </Chip>
        );
      })}
      <DiffersFrom roles={others} onPick={onDiffers} />
    </div>
  );
}
