// What everything given adds up to: kinds of content by actions, with the cloth of each role that gives it.

import { colourOf } from "../cloth/colours";
import { extentOf, Mark } from "../cloth/Mark";
import { Tip } from "../cloth/Tip";
import type { AccountData } from "../shared/useAccounts";
import { useCatalogue, useRoleMap } from "../shared/useRoles";
import { useActions } from "../shared/useWords";
import { WhyPopover } from "../shared/Why";

const EXTENTS = ["nothing", "what they wrote", "what their team wrote", "all"];

export function SumBoard({ rows, name }: { rows: AccountData["sum"]; name: string }) {
  const catalogue = useCatalogue().data;
  const actions = useActions();
  const roles = useRoleMap();
  if (rows.length === 0) return <p className="text-sm text-ink2">Nothing at all.</p>;
  return (
    <table className="w-full table-fixed">
      <caption className="sr-only">What everything given to {name} adds up to</caption>
      <thead>
        <tr className="border-b border-line text-tiny text-ink2">
          <th className="w-[128px] py-1 text-left font-normal">
            <span className="sr-only">Kind</span>
          </th>
          {actions.map((action) => (
            <th key={action.key} scope="col" className="font-normal">
              {action.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(({ type, marks }) => (
          <tr key={type} className="border-b border-linen2">
            <th scope="row" className="truncate text-left text-read font-semibold">
              {catalogue?.types.find((t) => t.key === type)?.name}
            </th>
            {actions.map(({ key: action }) => {
              const given = marks[action] ?? [];
              return (
                <td key={action} className="h-[32px]">
                  <span className="flex justify-center">
                    {given.length === 0 && <Mark extent="nothing" />}
                    {given.map((mark) => {
                      const role = roles.get(mark.role ?? "");
                      const from = role?.name ?? "one capability";
                      const text = markWords(mark, from);
                      return (
                        <Tip key={mark.role ?? "direct"} text={text}>
                          <span className="relative">
                            {mark.somewhere && <Somewhere />}
                            <Mark
                              extent={mark.barred ? "barred" : extentOf(mark.extent)}
                              colour={colourOf(role?.cloth)}
                              inherited={mark.baseline}
                              label={text}
                            />
                          </span>
                        </Tip>
                      );
                    })}
                  </span>
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** A dot beside a mark that holds only somewhere. */
function Somewhere() {
  return (
    <span
      aria-hidden="true"
      className="absolute -right-0.5 bottom-0.5 size-[7px] rounded-full border border-ink2 bg-paper"
    />
  );
}

type SumMark = AccountData["duties"][number]["marks"][number];

/** "all, by Tenant editor, only somewhere". */
export function markWords(
  { barred, extent, somewhere }: Omit<SumMark, "role" | "baseline">,
  from: string,
): string {
  const what = barred ? `barred by ${from}` : `${EXTENTS[extent]}, by ${from}`;
  return somewhere ? `${what}, only somewhere` : what;
}

/** The duties, each with the cloth of what gives it; why is one click away. */
export function SumDuties({ duties, account }: { duties: AccountData["duties"]; account: string }) {
  const roles = useRoleMap();
  if (duties.length === 0) return null;
  return (
    <ul aria-label="Duties" className="mt-3 grid grid-cols-3 gap-x-6 max-[1180px]:grid-cols-2">
      {duties.map(({ key, name, area, marks }) => (
        <li key={key} className="flex min-h-[30px] items-center gap-1.5 border-b border-linen2 text-read">
          {marks.map((mark) => {
            const role = roles.get(mark.role ?? "");
            const text = markWords(mark, role?.name ?? "one capability").replace("all, by", "by");
            return (
              <Tip key={mark.role ?? "direct"} text={text}>
                <span>
                  <Mark
                    extent={mark.barred ? "barred" : "all"}
                    colour={colourOf(role?.cloth)}
                    inherited={mark.baseline}
                    label={text}
                  />
                </span>
              </Tip>
            );
          })}
          <WhyPopover question={{ action: key, account }}>
            <button type="button" className="truncate text-left hover:underline" title={area}>
              {name}
            </button>
          </WhyPopover>
        </li>
      ))}
    </ul>
  );
}
