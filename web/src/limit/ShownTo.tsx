// What one page shows to whom: its fields for several at once, side by side.
import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { answer, api } from "../api/client";
import { keys } from "../shared/keys";
import { WhomPicker } from "../shared/pickers";
import { BranchPicker } from "../shared/tree/BranchPicker";
import { Chip, Empty, ErrorNotice, Loading } from "../shared/ui";

const MOST = 6;
const VISITOR = { key: "visitor", name: "a visitor", note: "Nobody signed in" };

export function ShownTo() {
  const [params, setParams] = useSearchParams();
  const node = params.get("page") ?? "";
  const who = params.getAll("who");
  const asked = who.length > 0 ? who : ["visitor"];
  const shown = useQuery({
    queryKey: keys.shown(node, asked),
    queryFn: () => answer(api.GET("/api/limit/shown", { params: { query: { node, who: asked } } })),
    enabled: node !== "",
    placeholderData: (before) => before,
  });

  function say(name: string, values: string[]) {
    const next = new URLSearchParams(window.location.search);
    next.delete(name);
    for (const value of values) next.append(name, value);
    setParams(next);
  }

  const told = shown.data;
  return (
    <>
      <div className="mb-3 max-w-[420px]">
        <BranchPicker
          id="shown-page"
          chosen={node ? [node] : []}
          onChange={(ids) => say("page", ids.slice(-1))}
        />
      </div>
      {!node && <Empty title="No page is chosen">Choose one to see what it shows to whom.</Empty>}
      {shown.error && <ErrorNotice error={shown.error} again={shown.refetch} />}
      {node && shown.isPending && <Loading what="what it shows" />}
      {node && told && (
        <>
          <span className="mb-2 flex flex-wrap items-center gap-1.5">
            {asked.map((one, i) => (
              <Chip
                key={one}
                on
                onClick={() =>
                  say(
                    "who",
                    asked.filter((other) => other !== one),
                  )
                }
              >
                {told.who[i] ?? one}
                <span aria-hidden="true">×</span>
                <span className="sr-only">, leave out</span>
              </Chip>
            ))}
            {asked.length < MOST && (
              <WhomPicker
                first={VISITOR}
                onPick={(picked) => say("who", [...asked.filter((one) => one !== picked), picked])}
                trigger={<Chip>+ somebody</Chip>}
              />
            )}
          </span>
          <table className="w-full text-read">
            <thead>
              <tr className="border-b border-line text-left text-xs text-ink2">
                <th className="py-1.5 font-normal">{told.title}</th>
                {told.who.map((name) => (
                  <th key={name} className="py-1.5 font-normal">
                    {name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {[{ key: "", name: "The page", answers: told.page }, ...told.fields_shown].map((row) => (
                <tr key={row.key} className="border-b border-linen2">
                  <th scope="row" className="py-1.5 pr-3 text-left font-semibold">
                    {row.name}
                  </th>
                  {row.answers.map(({ see, change }, i) => (
                    <td key={told.who[i]} className={`py-1.5 pr-3 ${see ? "" : "hatched text-ink2"}`}>
                      {see ? (change ? "sees and changes" : "sees") : "not there"}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </>
  );
}
