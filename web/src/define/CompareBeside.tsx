// What roles say beside their boards, side by side: components, facets, fields, where they are given, what narrows them.
import { useQueries } from "@tanstack/react-query";
import { Fragment } from "react";
import { answer, api, type Shapes } from "../api/client";
import { colourOf } from "../cloth/colours";
import { Mark } from "../cloth/Mark";
import { keys } from "../shared/keys";
import { ErrorNotice, Loading } from "../shared/ui";
import type { Catalogue, Role } from "../shared/useRoles";
import { allowed } from "./partLists";
import type { Board } from "./useBoard";

type Line = { what: string; has: boolean[] };
type Beside = Shapes["BesideShape"];
type Props = { roles: Role[]; boards: Board[]; catalogue: Catalogue; everything: boolean };

export function CompareBeside({ roles, boards, catalogue, everything }: Props) {
  const besides = useQueries({
    queries: roles.map(({ key }) => ({
      queryKey: keys.beside(key),
      queryFn: () => answer(api.GET("/api/roles/{role}/beside", { params: { path: { role: key } } })),
    })),
  });
  const failed = besides.find(({ error }) => error);
  if (failed) return <ErrorNotice error={failed.error} again={failed.refetch} />;
  const told = besides.map(({ data }) => data).filter((data) => data !== undefined);
  if (told.length < roles.length) return <Loading what="what stands beside the boards" />;
  const areas = linesOf(boards, told, catalogue)
    .map(([name, lines]) => [name, lines.filter(({ has }) => everything || has.includes(!has[0]))] as const)
    .filter(([, lines]) => lines.length > 0);
  if (areas.length === 0) return null;
  return (
    <table className="mt-4 w-full table-fixed text-sm">
      <caption className="sr-only">Beside the boards</caption>
      <thead className="sticky -top-[30px] z-10 bg-linen">
        <tr className="border-b border-line text-left align-bottom">
          <th className="w-[30%] py-1.5 pr-3 text-xs font-medium text-ink2">Beside the board</th>
          {roles.map((role) => (
            <th key={role.key} className="py-1.5 pr-3 font-semibold wrap-anywhere">
              {role.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {areas.map(([name, lines]) => (
          <Fragment key={name}>
            <tr>
              <th
                colSpan={roles.length + 1}
                scope="colgroup"
                className="border-b border-line pt-3 pb-1 text-left text-note font-semibold text-ink2"
              >
                {name}
              </th>
            </tr>
            {lines.map(({ what, has }) => (
              <tr key={what} className="border-b border-linen2">
                <th scope="row" className="w-[30%] py-1 pr-3 text-left font-medium wrap-anywhere">
                  {what}
                </th>
                {roles.map((role, i) => (
                  <td key={role.key}>
                    <Mark
                      extent={has[i] ? "all" : "nothing"}
                      colour={colourOf(role.cloth)}
                      label={has[i] ? "yes" : "no"}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}

export function linesOf(boards: Board[], besides: Beside[], catalogue: Catalogue): [string, Line[]][] {
  const said = (of: (beside: Beside) => string[] | null) => union(besides.map((beside) => of(beside) ?? []));
  return [
    ["Components", components(boards, catalogue)],
    ["Facets", facets(boards, catalogue)],
    ["Fields", said(({ fields_said }) => fields_said)],
    ["Given", said(({ given }) => given)],
    ["Limits", said(({ limits }) => limits)],
  ];
}

function components(boards: Board[], { components }: Catalogue): Line[] {
  const every = components.map(({ key }) => key);
  return components.map(({ key, name }) => ({
    what: `Insert ${name.toLowerCase()}`,
    has: boards.map((board) => allowed(board.components, every).includes(key)),
  }));
}

function facets(boards: Board[], { components }: Catalogue): Line[] {
  return components.flatMap(({ key, name, facets }) =>
    facets.map((facet) => ({
      what: `Change ${facet} of ${name.toLowerCase()}`,
      has: boards.map((board) => {
        const listed = board.facets.find(({ component }) => component === key);
        return !listed || allowed(listed, facets).includes(facet);
      }),
    })),
  );
}

function union(each: string[][]): Line[] {
  return [...new Set(each.flat())].map((what) => ({ what, has: each.map((said) => said.includes(what)) }));
}
