// A role's cloth, filled from the rod down by how much of the role has been proved.
import type { Cloth } from "./colours";
import { RoleCloth } from "./RoleCloth";

type Props = { cloth: Cloth; proved: number; of: number; size?: number };

/** The rod, which is always whole, in hundredths of the drawing's height. */
const ROD = 11;

export function ProvedCloth({ cloth, proved, of, size = 30 }: Props) {
  const share = of ? proved / of : 0;
  return (
    <span className="relative inline-flex shrink-0" data-share={share.toFixed(2)}>
      <span className="inline-flex opacity-25">
        <RoleCloth cloth={cloth} size={size} />
      </span>
      <span
        className="absolute inset-x-0 top-0 overflow-hidden"
        style={{ height: `${ROD + (100 - ROD) * share}%` }}
      >
        <RoleCloth cloth={cloth} size={size} />
      </span>
    </span>
  );
}
