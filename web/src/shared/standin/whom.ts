// Whom one stands in for: an account, a visitor, or somebody made up who holds some roles.
import type { Scope } from "../scope/scope";

export type HeldRole = { role: string; scope: Scope };
export type MadeUp = { roles: HeldRole[]; groups: string[]; own: boolean };
/** No account is a visitor. */
export type Whom = { account: string | null } | MadeUp;

export const VISITOR: Whom = { account: null };

export function holderOf(role: string): MadeUp {
  return { roles: [{ role, scope: {} }], groups: [], own: false };
}

export function memberOf(group: string): MadeUp {
  return { roles: [], groups: [group], own: false };
}

/** As it is sent: a role without a scope is its key alone. */
export function sentAs(whom: Whom) {
  if ("account" in whom) return whom;
  const { roles, groups, own } = whom;
  return {
    roles: roles.map(({ role, scope }) => (Object.keys(scope).length > 0 ? { role, scope } : role)),
    groups,
    own,
  };
}
