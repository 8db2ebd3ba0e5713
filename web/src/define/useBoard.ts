// The board of one role: its cells, choosing among them, and staging what is said.
import { useMutation, useQueries, useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { type Operation, useStage } from "../shared/changes/changeSet";
import { touchesNobody } from "../shared/changes/impactText";
import { keys } from "../shared/keys";
import { queryClient } from "../shared/query";
import { useSettled } from "../shared/useSettled";
import type { Answers } from "./patterns";
import type { Cell } from "./sentence";

export type Board = Omit<Shapes["BoardShape"], "cells" | "outcomes"> & { cells: Cell[] };

async function boardOf(role: string): Promise<Board> {
  const { cells, outcomes, ...board } = await answer(
    api.GET("/api/roles/{role}", { params: { path: { role } } }),
  );
  return { ...board, cells: cells.map((cell) => ({ ...cell, outcomes: outcomes[cell.outcomes] ?? {} })) };
}

export function useBoard(role: string) {
  return useQuery({
    queryKey: keys.board(role),
    queryFn: () => boardOf(role),
    enabled: role !== "",
  });
}

/** What stands around a cell; while one moves on quickly, around the one before. */
export function useCellContext(role: string, capability: string) {
  const cell = useSettledCell(role, capability);
  return useQuery({
    queryKey: keys.cell(cell.path.role, cell.query.capability),
    queryFn: () => answer(api.GET("/api/roles/{role}/cell", { params: cell })),
    enabled: capability !== "",
    placeholderData: (before) => before,
  });
}

/** The expectations that rest on a cell, for whoever may read them. */
export function useResting(role: string, capability: string, enabled: boolean) {
  const cell = useSettledCell(role, capability);
  return useQuery({
    queryKey: keys.cellExpectations(cell.path.role, cell.query.capability),
    queryFn: () => answer(api.GET("/api/roles/{role}/cell/expectations", { params: cell })),
    enabled,
    placeholderData: (before) => before,
  });
}

function useSettledCell(role: string, capability: string) {
  const [path = "", query = ""] = useSettled(`${role} ${capability}`).split(" ");
  return { path: { role: path }, query: { capability: query } };
}

/** Say something in cells of a role. The board answers at once; the server's word follows. */
export function useSetAnswers(role: string) {
  const stage = useStage();
  return {
    error: stage.error,
    setAnswers(answers: Answers, also: Operation[] = []) {
      queryClient.cancelQueries({ queryKey: keys.board(role) });
      queryClient.setQueryData<Board>(
        keys.board(role),
        (board) => board && { ...board, cells: board.cells.map((cell) => withAnswers(cell, answers)) },
      );
      const said = [...answers].map(
        ([capability, says]): Operation => ({ kind: "set-answer", role, capability, says }),
      );
      stage.mutate([...also, ...said]);
    },
  };
}

/** A cell as it is once something is said of it. */
export function withAnswers(cell: Cell, answers: Answers): Cell {
  const says = answers.get(cell.capability);
  return says === undefined ? cell : { ...cell, said: says, staged: cell.staged || cell.said !== says };
}

/** The boards of some roles beside each other. */
export function useBoards(roles: string[]) {
  return useQueries({
    queries: roles.map((role) => ({
      queryKey: keys.board(role),
      queryFn: () => boardOf(role),
    })),
  });
}

/** What every role says about one capability. */
export function useCapability(capability: string) {
  return useQuery({
    queryKey: keys.capability(capability),
    queryFn: () =>
      everyPage((offset) => api.GET("/api/roles/capability", { params: { query: { capability, offset } } })),
    enabled: capability !== "",
    placeholderData: (before) => before,
  });
}

/** Say one word in one cell of any role. */
export function useSetAnswer() {
  const stage = useStage();
  return {
    error: stage.error,
    setAnswer: (role: string, capability: string, says: string | null) =>
      stage.mutate([{ kind: "set-answer", role, capability, says }]),
  };
}

/** These capabilities are not new any more. */
export function useLookAt() {
  return useMutation({
    mutationFn: (capabilities: string[]) =>
      answer(api.POST("/api/catalogue/looked-at", { body: { capabilities } })),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: keys.catalogue }),
  });
}

/** Whom some answers of a role would touch by themselves, before they are staged; then what they would turn. */
export function usePreview(role: string, answers: Answers) {
  const now = JSON.stringify([...answers]);
  const asked = useSettled(now);
  const operations = (JSON.parse(asked) as [string, string | null][]).map(
    ([capability, says]): Operation => ({ kind: "set-answer", role, capability, says }),
  );
  const body = { operations };
  const touched = useQuery({
    queryKey: keys.previewTouched(role, asked),
    queryFn: () => answer(api.POST("/api/change-set/preview/touched", { body })),
    enabled: operations.length > 0,
  });
  const turning = useQuery({
    queryKey: keys.preview(role, asked),
    queryFn: () => answer(api.POST("/api/change-set/preview", { body })),
    enabled: touched.data !== undefined && !touchesNobody(touched.data),
  });
  if (asked !== now) return {};
  return { touched: touched.data, turning: turning.data, error: touched.error ?? turning.error };
}
