// How much of each role has been proved: the cloth of each filled from the rod down, those walked farthest first.
import { useState } from "react";
import { useNavigate } from "react-router";
import { ProvedCloth } from "../../cloth/ProvedCloth";
import { Button, ErrorNotice } from "../../shared/ui";
import { useMakeWalkList, useWalkLists, type WalkCount } from "../../shared/walks/useWalks";

const SHOWN = 6;

export function Coverage() {
  const lists = useWalkLists();
  const make = useMakeWalkList();
  const navigate = useNavigate();
  const [all, showAll] = useState(false);
  if (lists.error) return <ErrorNotice error={lists.error} again={lists.refetch} />;
  if (!lists.data || lists.data.length === 0) return null;
  const ordered = [...lists.data].sort(
    (a, b) => share(b) - share(a) || Number(b.id !== null) - Number(a.id !== null),
  );
  const open = (list: WalkCount) =>
    list.id
      ? navigate(`/walk/${list.id}`)
      : make.mutate(list.role.key, { onSuccess: (made) => navigate(`/walk/${made.id}`) });
  return (
    <section aria-label="How much of each role has been proved" className="mb-6">
      <div className="mb-2.5 flex items-center gap-3">
        <h2 className="text-[17px]!">How much of each role has been proved</h2>
        {ordered.length > SHOWN && (
          <Button look="quiet" onClick={() => showAll(!all)}>
            {all ? "Show fewer" : `All ${ordered.length} roles`}
          </Button>
        )}
      </div>
      <ErrorNotice error={make.error} />
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(138px,1fr))] gap-2">
        {(all ? ordered : ordered.slice(0, SHOWN)).map((list) => (
          <li key={list.role.key}>
            <button
              type="button"
              disabled={make.isPending}
              onClick={() => open(list)}
              className="flex h-full w-full items-center gap-2 rounded-md border border-line bg-paper px-2 py-2.5 text-left hover:border-line2"
            >
              <ProvedCloth cloth={list.role.cloth} proved={list.proved} of={list.items} size={24} />
              <span className="min-w-0">
                <span className="line-clamp-2 text-read leading-tight font-semibold">{list.role.name}</span>
                <span className={`block text-xs ${list.otherwise ? "text-bar" : "text-ink2"}`}>
                  {told(list)}
                </span>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function share({ proved, items }: WalkCount): number {
  return items ? proved / items : -1;
}

export function told({ id, items, proved, otherwise }: WalkCount): string {
  if (!id) return "not walked yet";
  return `${proved} of ${items} proved${otherwise ? `, ${otherwise} otherwise` : ""}`;
}
