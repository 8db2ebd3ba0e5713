// Where whoever has nothing on the desk yet may work: what they are told on their first visit.
import { Link } from "react-router";
import { count } from "../shared/time";
import { Empty, ErrorNotice, Loading } from "../shared/ui";
import { useOffers } from "../shared/useOffers";

export function WhereToWork() {
  const offers = useOffers();
  if (offers.error) return <ErrorNotice error={offers.error} again={offers.refetch} />;
  if (!offers.data) return <Loading what="where you may work" />;
  const { work, work_in_all } = offers.data;
  if (work.length === 0)
    return (
      <Empty title="There is nothing here for you to change">
        What you may read is in the tree. Where you are refused something, you can ask for it.
      </Empty>
    );
  return (
    <section aria-label="Where you may work" className="mt-4 max-w-[640px]">
      <h2 className="mb-1">Where you may work</h2>
      <ul>
        {work.map(({ id, title, tree, edits, makes }) => (
          <li key={id} className="border-b border-line py-2.5">
            <Link
              to={`/desk/${id}${tree === "media" ? "?tree=media" : ""}`}
              className="font-semibold hover:underline"
            >
              {title}
            </Link>
            <p className="text-xs text-ink2">
              {[
                edits > 0 &&
                  (tree === "media"
                    ? `you may edit ${edits} of media`
                    : `you may edit ${count(edits, "page")}`),
                makes.length > 0 && `you may make ${listed(makes)}`,
              ]
                .filter(Boolean)
                .join("; ")}
            </p>
          </li>
        ))}
      </ul>
      {work_in_all > work.length && (
        <p className="mt-1 text-xs text-ink2">and {count(work_in_all - work.length, "other place")}</p>
      )}
    </section>
  );
}

function listed(some: string[]): string {
  return some.length > 1 ? `${some.slice(0, -1).join(", ")} and ${some.at(-1)}` : (some[0] ?? "");
}
