// What changed on a page since visitors last read it.
import { day } from "../shared/time";
import { ErrorNotice, Loading } from "../shared/ui";
import { ToldChanges } from "./ToldChanges";
import type { Version } from "./useDesk";
import { useSincePublic } from "./useWaiting";

type SincePublicProps = { of: Pick<Version, "id" | "title" | "working"> };

export function SincePublic({ of: { id, title, working } }: SincePublicProps) {
  const told = useSincePublic(id, working);
  if (told.error) return <ErrorNotice error={told.error} again={told.refetch} />;
  if (!told.data) return <Loading what="what changed" />;
  const { last_public, changes } = told.data;
  return (
    <section
      aria-label={`What changed on ${title}`}
      className="mt-2 rounded-md border border-line bg-paper px-4 pt-2 pb-3"
    >
      {last_public && <p className="text-xs text-ink2">Last public on {day(last_public)}.</p>}
      {changes.length === 0 && <p className="py-1 text-sm text-ink2">Nothing that you may see.</p>}
      <ToldChanges changes={changes} fresh={last_public === null} />
    </section>
  );
}
