// What somebody can still change on a page, or over a branch: part by part, the surprising first.
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { keys } from "../shared/keys";
import { count } from "../shared/time";
import { BranchPicker } from "../shared/tree/BranchPicker";
import { Chip, Empty, ErrorNotice, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import type { Whom } from "./useLimits";

export function Leftovers({ whom, name }: { whom: Whom; name: string }) {
  const [node, choose] = useParam("on");
  const [far, turn] = useParam("far");
  const [own, setOwn] = useParam("own");
  const who = oneOf(whom);
  const beneath = far !== "page";
  const left = useQuery({
    queryKey: keys.leftovers(who ?? "", node, beneath, own),
    queryFn: () =>
      answer(
        api.GET("/api/limit/leftovers", {
          params: {
            query: {
              who: who ?? "",
              own: own !== "",
              ...(beneath ? { branch: node } : { node }),
            },
          },
        }),
      ),
    enabled: node !== "" && who !== null,
    retry: false,
  });
  return (
    <div className="min-h-0 flex-1 overflow-y-auto pt-3 pb-6">
      <div className="mb-3 grid max-w-[640px] grid-cols-[minmax(0,1fr)_auto] items-start gap-3">
        <BranchPicker
          id="leftovers-on"
          chosen={node ? [node] : []}
          onChange={(ids) => choose(ids.at(-1) ?? "")}
        />
        <span className="flex flex-wrap gap-1.5">
          <Chip on={beneath} onClick={() => turn("")}>
            With all beneath
          </Chip>
          <Chip on={!beneath} onClick={() => turn("page")}>
            That page alone
          </Chip>
          {whom.roles && (
            <Chip on={own !== ""} onClick={() => setOwn(own ? "" : "true")}>
              As the author
            </Chip>
          )}
        </span>
      </div>
      {who === null && <Empty title="Choose one role, group or account">Leftovers are of one of them.</Empty>}
      {who !== null && !node && (
        <Empty title="Where?">Choose a page or a branch to see what {name} can still change there.</Empty>
      )}
      {left.error && <ErrorNotice error={left.error} again={left.refetch} />}
      {node && who !== null && left.isPending && <Loading what="what is left" />}
      {left.data && left.data.leftovers.length === 0 && (
        <Empty title="Nothing is left">
          {name} can change nothing on {left.data.title}.
        </Empty>
      )}
      {left.data && left.data.leftovers.length > 0 && (
        <table className="w-full text-read">
          <caption className="pb-1 text-left text-xs text-ink2">
            {left.data.title}, {count(left.data.pages, "page")}. What is locked elsewhere, and what few roles
            may do, comes first.
          </caption>
          <thead>
            <tr className="border-b border-line text-left text-xs text-ink2">
              {["Can still change", "Where", "Other roles that may", "Of note"].map((head) => (
                <th key={head} className="py-1.5 font-normal">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {left.data.leftovers.map((row) => (
              <tr key={row.what} className="border-b border-linen2">
                <th scope="row" className="py-1.5 pr-3 text-left font-semibold">
                  {row.what}
                </th>
                <td className="py-1.5 pr-3 text-ink2">
                  {row.pages === row.of ? count(row.pages, "page") : `${row.pages} of ${row.of} pages`}
                </td>
                <td className="figures py-1.5 pr-3 text-ink2">{row.roles === 0 ? "none" : row.roles}</td>
                <td className="py-1.5 text-[#75531a]">
                  {row.locked_elsewhere ? "locked on another page" : ""}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

/** Whom the question is about, as the address has it; null where it is about several roles at once. */
function oneOf({ account, group, visitor, roles = [] }: Whom): string | null {
  if (account) return `account ${account}`;
  if (group) return `group ${group}`;
  if (visitor) return "visitor";
  return roles.length === 1 ? `role ${roles[0]}` : null;
}
