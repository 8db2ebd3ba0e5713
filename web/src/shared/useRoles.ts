// All roles with their cloths, and the catalogue of capabilities.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { keys } from "./keys";
import { accessChanged, queryClient } from "./query";

export type Role = Shapes["RoleShape"];
export type Catalogue = Shapes["CatalogueShape"];

export function useRoles(enabled = true) {
  return useQuery({
    queryKey: keys.roles,
    queryFn: () => everyPage((offset) => api.GET("/api/roles", { params: { query: { offset } } })),
    enabled,
  });
}

/** Roles by their keys; empty until they are there. */
export function useRoleMap(): Map<string, Role> {
  return new Map(useRoles().data?.map((role) => [role.key, role]));
}

/** Another role that wears the same cloth, if there is one. */
export function sameCloth({ key, cloth }: Pick<Role, "key" | "cloth">, roles: Role[]): Role | undefined {
  return roles.find(
    (other) =>
      other.key !== key && other.cloth.colour === cloth.colour && other.cloth.pattern === cloth.pattern,
  );
}

export function useCatalogue() {
  return useQuery({
    queryKey: keys.catalogue,
    queryFn: () => answer(api.GET("/api/catalogue")),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export type Beginning = {
  name: string;
  copy_of?: string;
  builds_on?: string;
  starter?: Shapes["RoleInputRequest"]["starter"];
  with_limits: boolean;
};

/** The roles that one can begin with. */
export function useStarters(wanted: boolean) {
  return useQuery({
    queryKey: keys.starters,
    queryFn: () => answer(api.GET("/api/roles/starters")),
    enabled: wanted,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useMakeRole() {
  return useMutation({
    mutationFn: (beginning: Beginning) => answer(api.POST("/api/roles", { body: beginning })),
    onSuccess: () => accessChanged(),
  });
}

export type Looks = Partial<{
  name: string;
  description: string;
  colour: string;
  pattern: string;
  start: string[] | null;
}>;

/** Name, description, cloth and start page of a role, saved at once on top of the version that was read. */
export function useChangeRole(role: Role) {
  return useMutation({
    mutationFn: (looks: Looks) =>
      answer(
        api.PATCH("/api/roles/{role}", {
          params: { path: { role: role.key }, header: { "If-Match": `"${role.version}"` } },
          body: looks as Shapes["PatchedRoleChangeInputRequest"],
        }),
      ),
    onSettled: () => accessChanged(),
  });
}

/** Put the roles in another order; the list shows it at once. */
export function useOrderRoles() {
  return useMutation({
    mutationFn: (roles: string[]) => answer(api.POST("/api/roles/order", { body: { roles } })),
    onMutate: (roles) => {
      const rank = new Map(roles.map((key, i) => [key, i]));
      queryClient.setQueryData<Role[]>(keys.roles, (now) =>
        now?.toSorted((a, b) => (rank.get(a.key) ?? 0) - (rank.get(b.key) ?? 0)),
      );
    },
    onSettled: () => queryClient.invalidateQueries({ queryKey: keys.roles }),
  });
}
