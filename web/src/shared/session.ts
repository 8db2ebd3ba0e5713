// Who signed in, and for whom they stand in.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { answer, api, drawnFor, onOtherEyes, type Shapes } from "../api/client";
import { keys } from "./keys";
import { queryClient } from "./query";
import { forgetTyped } from "./typed";

export type Session = Shapes["SessionShape"];

async function readSession(): Promise<Session> {
  const session = await answer(api.GET("/api/session"));
  const before = queryClient.getQueryData<Session>(keys.session);
  drawnFor(session.eyes);
  // Elsewhere somebody signed in, or standing in began or ended: nothing here is drawn for them.
  if (before && before.eyes !== session.eyes) queryClient.invalidateQueries({ predicate: isOther });
  return session;
}

const isOther = ({ queryKey }: { queryKey: readonly unknown[] }) => queryKey[0] !== keys.session[0];

onOtherEyes(() => queryClient.invalidateQueries({ queryKey: keys.session }));

export function useSession() {
  return useQuery({
    queryKey: keys.session,
    queryFn: readSession,
    refetchInterval: (query) => (query.state.data?.standing_in ? 30_000 : false),
  });
}

/** Whether whoever decisions are about passes a duty, such as `roles.assign`. */
export function useDuty(duty: string): boolean {
  return useSession().data?.duties.includes(duty) ?? false;
}

export function useSignIn() {
  return useMutation({
    mutationFn: async (body: Shapes["SignInInputRequest"]) => {
      // The first answer brings the token that every writing request must send.
      await queryClient.ensureQueryData({ queryKey: keys.session, queryFn: readSession });
      return answer(api.POST("/api/session", { body }));
    },
    onSuccess: cameIn,
  });
}

/** What comes of a step of signing in: the session as it is then, and nothing of what was seen before. */
export function cameIn(session: Session) {
  drawnFor(session.eyes);
  queryClient.removeQueries({ predicate: isOther });
  queryClient.setQueryData(keys.session, session);
}

export function useSignOut() {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: () => answer(api.DELETE("/api/session")),
    onSuccess: async () => {
      forgetTyped();
      await leave(() => navigate("/sign-in"));
    },
  });
}

/** Go away from what was drawn for other eyes: nothing of it is asked for again by those who look now. */
async function leave(go: () => void | Promise<void>) {
  // Without a session the shell draws no place.
  queryClient.getQueryCache().find({ queryKey: keys.session })?.reset();
  queryClient.removeQueries({ predicate: isOther });
  await go();
}

/** Whether standing in for somebody does not plainly fail; the server decides it exactly once it is asked for. */
export function mayHopeToStandIn(
  somebody: { id: string; state: string; keyholder: boolean },
  me: { id: string; keyholder: boolean } | null | undefined,
): boolean {
  if (!me || somebody.id === me.id || somebody.state !== "active") return false;
  return me.keyholder || !somebody.keyholder;
}

/** Begin to see the desk as an account has it; stepping out leads back to where one was. */
export function useStandIn() {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: ({ account, staged = false, at }: { account: string; staged?: boolean; at?: string }) =>
      answer(
        api.POST("/api/stand-in", {
          body: { account, staged, at, came_from: window.location.pathname + window.location.search },
        }),
      ),
    onSuccess: async () => {
      await leave(() => navigate("/desk"));
      await queryClient.refetchQueries({ queryKey: keys.session });
    },
  });
}

/** Look on for longer. */
export function useLookOn() {
  return useMutation({
    mutationFn: () => answer(api.PATCH("/api/stand-in")),
    onSuccess: () => queryClient.refetchQueries({ queryKey: keys.session }),
  });
}

export function useStepOut() {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: (_cameFrom: string) => answer(api.DELETE("/api/stand-in")),
    onSuccess: async (_, cameFrom) => {
      await leave(() => navigate(cameFrom));
      await queryClient.refetchQueries({ queryKey: keys.session });
    },
  });
}

/** The first place open to somebody, where they land after signing in. */
export function firstPlace(session: Session): string {
  return `/${session.places[0] ?? "desk"}`;
}
