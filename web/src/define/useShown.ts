// What is shown of a board, kept in the address: the choice, the words, the role it is held against, the folded areas.
import { useMemo } from "react";
import { useParam } from "../shared/useParam";
import type { Catalogue, Role } from "../shared/useRoles";
import { rowsOf } from "./grid";
import type { Cell } from "./sentence";
import { type Cells, matcher, showsOf } from "./shows";
import { type Board, useBoard } from "./useBoard";

const EVERYTHING = () => true;

export function cellsOf(board: Board | undefined): Cells {
  return new Map<string, Cell>(board?.cells.map((cell) => [cell.capability, cell]));
}

export function useShown(
  cells: Cells,
  sections: Board["sections"],
  roles: Map<string, Role>,
  catalogue: Catalogue,
) {
  const [show, setShow] = useParam("show");
  const [words, setWords] = useParam("words");
  const [differs, setDiffers] = useParam("from");
  const other = useBoard(differs).data;

  const shows = useMemo(
    () => showsOf(catalogue, sections, roles.get(differs), other && cellsOf(other)),
    [catalogue, sections, roles, differs, other],
  );
  const shown = useMemo(() => {
    const keep = shows[show]?.keep ?? EVERYTHING;
    const matches = matcher(words, catalogue);
    return (capability: string) => {
      const cell = cells.get(capability);
      return cell !== undefined && keep(cell) && matches(capability);
    };
  }, [shows, show, words, catalogue, cells]);
  const rows = useMemo(() => rowsOf(catalogue, shown), [catalogue, shown]);

  return {
    show,
    setShow,
    words,
    setWords,
    shows,
    shown,
    rows,
    showDifferent(role: string) {
      setDiffers(role);
      setShow("differs");
    },
  };
}

/** The areas folded away on the board, and folding one or opening it again. */
export function useFolded(): [string[], (area: string) => void] {
  const [folded, setFolded] = useParam("folded");
  const areas = folded.split(",").filter(Boolean);
  const fold = (area: string) =>
    setFolded((areas.includes(area) ? areas.filter((one) => one !== area) : [...areas, area]).join());
  return [areas, fold];
}
