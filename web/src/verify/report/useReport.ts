// A report: asked for, and read again and again while the worker makes it.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../../api/client";
import { keys } from "../../shared/keys";

export type Report = Shapes["ReportShape"];
export type Told = Shapes["ReportToldShape"];

const EVERY = 700;

export function useAskForReport() {
  return useMutation({
    mutationFn: (body: Shapes["ReportInputRequest"]) => answer(api.POST("/api/reports", { body })),
  });
}

export function useReport(report: string) {
  return useQuery({
    queryKey: keys.report(report),
    queryFn: () => answer(api.GET("/api/reports/{report}", { params: { path: { report } } })),
    enabled: report !== "",
    refetchInterval: ({ state }) => (isUnderWay(state.data) ? EVERY : false),
  });
}

export function isUnderWay(report: Report | undefined): boolean {
  return report?.state === "waiting" || report?.state === "making";
}
