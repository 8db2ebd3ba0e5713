// Expectations: how each stands, asking them again, recording and dropping them.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../../api/client";
import { keys } from "../keys";
import { accessChanged } from "../query";

export type Expectation = Shapes["ExpectationShape"];

export function useExpectations() {
  return useQuery({
    queryKey: keys.expectations,
    queryFn: async () => {
      let milliseconds = 0;
      const all = await everyPage(async (offset) => {
        const asked = await api.GET("/api/expectations", { params: { query: { offset } } });
        milliseconds += Number(
          /dur=([\d.]+)/.exec(asked.response.headers.get("Server-Timing") ?? "")?.[1] ?? 0,
        );
        return asked;
      });
      return { all, milliseconds };
    },
  });
}

export function useRecordExpectation() {
  return useMutation({
    mutationFn: (body: Shapes["ExpectationInputRequest"]) => answer(api.POST("/api/expectations", { body })),
    onSuccess: () => accessChanged(),
  });
}

/** The same while standing in: what one sees there is noted in earnest, also where one rehearses. */
export function useExpectThis() {
  return useMutation({
    mutationFn: (body: Shapes["ExpectationInputRequest"]) =>
      answer(api.POST("/api/expectations", { body, params: { header: { "In-Earnest": "yes" } } })),
    onSuccess: () => accessChanged(),
  });
}

export function useDropExpectation() {
  return useMutation({
    mutationFn: (expectation: string) =>
      answer(api.DELETE("/api/expectations/{expectation}", { params: { path: { expectation } } })),
    onSuccess: () => accessChanged(),
  });
}
