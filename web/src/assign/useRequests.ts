// Requests of those who were refused, and the delegations there are.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import { accessChanged } from "../shared/query";
import { useDuty } from "../shared/session";

export type AccessRequest = Shapes["RequestShape"];
export type Delegation = Shapes["DelegationShape"];

/** Whether whoever looks can give what is asked for. */
export function useMayDecide(): boolean {
  const [assign, define, limit] = [useDuty("roles.assign"), useDuty("roles.define"), useDuty("limits.set")];
  return assign || define || limit;
}

export function useRequests() {
  const enabled = useMayDecide();
  return useQuery({
    queryKey: keys.requests,
    queryFn: () => everyPage((offset) => api.GET("/api/requests", { params: { query: { offset } } })),
    enabled,
  });
}

export function useRequest(request_id: string) {
  return useQuery({
    queryKey: keys.request(request_id),
    queryFn: () => answer(api.GET("/api/requests/{request_id}", { params: { path: { request_id } } })),
    enabled: request_id !== "",
  });
}

export function useGrant(request_id: string) {
  return useMutation({
    mutationFn: (body: Shapes["GrantInputRequest"]) =>
      answer(api.POST("/api/requests/{request_id}/grant", { params: { path: { request_id } }, body })),
    onSettled: () => accessChanged(),
  });
}

export function useDecline(request_id: string) {
  return useMutation({
    mutationFn: (word: string) =>
      answer(
        api.POST("/api/requests/{request_id}/decline", { params: { path: { request_id } }, body: { word } }),
      ),
    onSettled: () => accessChanged(),
  });
}

export function useDelegations() {
  return useQuery({
    queryKey: keys.delegations,
    queryFn: () => everyPage((offset) => api.GET("/api/delegations", { params: { query: { offset } } })),
  });
}
