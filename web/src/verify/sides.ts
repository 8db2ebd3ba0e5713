// The sides that stand beside each other, as the address has them, and what they come to.
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { answer, api, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import type { Whom } from "../shared/standin/whom";

export type Side = Shapes["SideShape"];
export type SideRow = Shapes["SideRowShape"];
export type SideNode = Shapes["SideNodeShape"];
export type Show = "page" | "parts" | "tree" | "board";

export const MOST_SIDES = 3;
export const MOST_ROWS = 200;

/** What is beside what, all of it in the address. */
export function useSides() {
  const [params, setParams] = useSearchParams();
  const change = (write: (next: URLSearchParams) => void) => {
    const next = new URLSearchParams(window.location.search);
    write(next);
    setParams(next);
  };
  const set = (key: string, value: string) =>
    change((next) => (value ? next.set(key, value) : next.delete(key)));
  return {
    sides: params.getAll("side").slice(0, MOST_SIDES),
    node: params.get("node") ?? "",
    show: (params.get("show") ?? (params.get("node") ? "parts" : "board")) as Show,
    only: params.get("only") === "on",
    set,
    setSides: (sides: string[]) =>
      change((next) => {
        next.delete("side");
        for (const side of sides) next.append("side", side);
      }),
  };
}

export function useSideBySide(
  sides: string[],
  show: "page" | "parts" | "board",
  node: string,
  only: boolean,
) {
  const query = { side: sides, show, differing: only, ...(show === "board" ? {} : { node }) };
  return useQuery({
    queryKey: keys.sides(query),
    queryFn: () => answer(api.GET("/api/side-by-side", { params: { query } })),
    enabled: sides.length > 1 && (show === "board" || node !== ""),
    placeholderData: (before) => before,
    retry: false,
  });
}

export function useSidesOfTree(sides: string[], only: boolean) {
  return useInfiniteQuery({
    queryKey: keys.sides({ sides, only, show: "tree" }),
    queryFn: ({ pageParam }) =>
      answer(
        api.GET("/api/side-by-side", {
          params: { query: { side: sides, show: "tree", differing: only, offset: pageParam } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, pages) =>
      pages.length * MOST_ROWS < last.total ? pages.length * MOST_ROWS : undefined,
    enabled: sides.length > 1,
    retry: false,
  });
}

/** Whom a side stands for, to step into it; what it says of moments goes along. */
export function whomOfSide(side: string): { whom: Whom; staged: boolean; at?: string } {
  const [first = "", ...more] = side.split(";");
  const kind = first.slice(0, first.indexOf(":") < 0 ? undefined : first.indexOf(":"));
  const value = first.slice(kind.length + 1);
  const at = more.find((part) => part.startsWith("at="))?.slice(3);
  const own = more.includes("own");
  const held = value.split(",").filter(Boolean);
  const whom: Whom =
    kind === "account"
      ? { account: value }
      : kind === "roles"
        ? { roles: held.map((role) => ({ role, scope: {} })), groups: [], own }
        : kind === "groups"
          ? { roles: [], groups: held, own }
          : { account: null };
  return { whom, staged: more.includes("staged"), at };
}
