// All roles with their cloths, and the catalogue of capabilities.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { accessChanged } from "./query";

export type Role = Shapes["RoleShape"];
export type Catalogue = Shapes["CatalogueShape"];

export function useRoles() {
  return useQuery({
    queryKey: ["roles"],
    queryFn: () => everyPage((offset) => api.GET("/api/roles", { params: { query: { offset } } })),
  });
}

/** Roles by their keys; empty until they are there. */
export function useRoleMap(): Map<string, Role> {
  return new Map(useRoles().data?.map((role) => [role.key, role]));
}

export function useCatalogue() {
  return useQuery({
    queryKey: ["catalogue"],
    queryFn: () => answer(api.GET("/api/catalogue")),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useMakeRole() {
  return useMutation({
    mutationFn: (name: string) => answer(api.POST("/api/roles", { body: { name } })),
    onSuccess: () => accessChanged(),
  });
}
