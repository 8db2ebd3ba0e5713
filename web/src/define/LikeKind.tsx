// Who sees, makes and edits a new kind from its beginning: whoever does so with the kind most like it, or nobody.

import { Picker } from "../shared/Picker";
import { Labelled } from "../shared/ui";
import { type Role, useRoleMap } from "../shared/useRoles";
import { effective } from "./sentence";
import { useCapability } from "./useBoard";
import type { Kind } from "./useKinds";

type LikeProps = { kinds: Kind[]; like: string | null; onChoose: (kind: string | null) => void };

export function LikeKind({ kinds, like, onChoose }: LikeProps) {
  const kind = kinds.find(({ key }) => key === like);
  return (
    <div className="mb-3">
      <Labelled label="Who sees, makes and edits it">
        {(id) => (
          <Picker
            id={id}
            what="kind"
            value={like ?? ""}
            none="Nobody yet"
            choices={kinds.map(({ key, plural }) => ({ key, name: `As with ${plural}` }))}
            onPick={(key) => onChoose(key || null)}
          />
        )}
      </Labelled>
      {kind ? (
        <ul className="-mt-2 text-xs text-ink2">
          <Verb word="Seen" capability={`${kind.key}.see`} />
          <Verb word="Made" capability={`${kind.key}.create`} />
          <Verb word="Edited" capability={`${kind.key}.edit`} />
        </ul>
      ) : (
        <p className="-mt-2 text-xs text-bar">
          Whatever is published of it is seen by nobody until a role gives it.
        </p>
      )}
    </div>
  );
}

function Verb({ word, capability }: { word: string; capability: string }) {
  const roles = useRoleMap();
  const cells = useCapability(capability);
  const giving = (cells.data ?? [])
    .filter((cell) => effective(cell).given)
    .map(({ role }) => roles.get(role))
    .filter((role): role is Role => role !== undefined);
  const everybody = giving.find(({ baseline }) => baseline !== "");
  const names = everybody ? [everybody] : giving;
  return (
    <li>
      {word} by {names.length > 0 ? names.map(({ name }) => name).join(", ") : "nobody"}
    </li>
  );
}

/** The kind that stands under most of the same kinds, and fewest others; null where there is none. */
export function mostLike(kinds: Kind[], under: string[]): string | null {
  const alike = (kind: Kind) =>
    kind.under.filter((one) => under.includes(one)).length / new Set([...kind.under, ...under]).size;
  const [first] = kinds.filter((kind) => alike(kind) > 0).sort((a, b) => alike(b) - alike(a));
  return first?.key ?? null;
}
