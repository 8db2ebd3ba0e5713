// Reviews of what is given.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import { accessChanged, queryClient } from "../shared/query";

export type Review = Shapes["ReviewShape"];
export type RoleTag = Shapes["RoleTagShape"];
export type ReviewItem = Shapes["ReviewItemShape"];

export function useReviews() {
  return useQuery({
    queryKey: keys.reviews,
    queryFn: () => everyPage((offset) => api.GET("/api/reviews", { params: { query: { offset } } })),
  });
}

export function useReview(review: string) {
  return useQuery({
    queryKey: keys.review(review),
    queryFn: () => answer(api.GET("/api/reviews/{review}", { params: { path: { review } } })),
    enabled: review !== "",
  });
}

export function useBeginReview() {
  return useMutation({
    mutationFn: (body: Shapes["ReviewInputRequest"]) => answer(api.POST("/api/reviews", { body })),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: keys.reviews }),
  });
}

/** What ending one assignment, or closing the review, would come to. */
export function foreseen(review: string, item?: string) {
  return answer(api.GET("/api/reviews/{review}/foreseen", { params: { path: { review }, query: { item } } }));
}

type Decision = { item: string; decision: "keep" | "end"; reason: string };

export function useDecide(review: string) {
  return useMutation({
    mutationFn: ({ item, ...body }: Decision) =>
      answer(api.POST("/api/reviews/{review}/items/{item}", { params: { path: { review, item } }, body })),
    onSuccess: (page) => {
      queryClient.setQueryData(keys.review(review), page);
      return accessChanged();
    },
  });
}

export function useCloseReview(review: string) {
  return useMutation({
    mutationFn: () => answer(api.POST("/api/reviews/{review}/close", { params: { path: { review } } })),
    onSettled: () =>
      Promise.all([accessChanged(), queryClient.invalidateQueries({ queryKey: keys.reviews })]),
  });
}
