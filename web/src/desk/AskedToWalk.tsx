// On Start: the roles that one was asked to try.
import { ProvedCloth } from "../cloth/ProvedCloth";
import { useSession } from "../shared/session";
import { TextLink } from "../shared/TextLink";
import { useWalkLists } from "../shared/walks/useWalks";

export function AskedToWalk() {
  const lists = useWalkLists();
  const standing = useSession().data?.standing_in;
  const given = (lists.data ?? []).filter(({ given, id }) => given && id);
  if (standing || given.length === 0) return null;
  return (
    <section className="mb-7">
      <h2 className="mb-1">You were asked to try</h2>
      <ul>
        {given.map(({ id, role, proved, items, word }) => (
          <li key={role.key} className="flex items-start gap-3 border-b border-line py-2.5">
            <ProvedCloth cloth={role.cloth} proved={proved} of={items} size={24} />
            <span className="min-w-0 flex-1">
              <TextLink to={`/walk/${id}`}>{role.name}</TextLink>
              <span className="block text-xs text-ink2">
                {proved} of {items} proved
              </span>
              {word && <span className="mt-1 block border-l-[3px] border-brass pl-2.5 text-sm">{word}</span>}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
