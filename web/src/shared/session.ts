// Who signed in, and for whom they stand in.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { answer, api, drawnFor, onOtherEyes, onRehearsed, type Shapes } from "../api/client";
import { readTogether } from "../api/together";
import { keys } from "./keys";
import { queryClient } from "./query";
import { sentAs, type Whom } from "./standin/whom";
import { writtenIn } from "./time";
import { forgetTyped } from "./typed";

export type Session = Shapes["SessionShape"];

async function readSession(): Promise<Session> {
  const session = await answer(api.GET("/api/session"));
  const before = queryClient.getQueryData<Session>(keys.session);
  drawnFor(session.eyes);
  writtenIn(session.actor?.language ?? "en");
  readTogether(session.standing_in?.mode === "rehearse");
  // Elsewhere somebody signed in, or standing in began or ended: nothing here is drawn for them.
  if (before && before.eyes !== session.eyes) queryClient.invalidateQueries({ predicate: isOther });
  return session;
}

const isOther = ({ queryKey }: { queryKey: readonly unknown[] }) => queryKey[0] !== keys.session[0];

onOtherEyes(() => queryClient.invalidateQueries({ queryKey: keys.session }));

onRehearsed(() => {
  queryClient.invalidateQueries({ queryKey: keys.rehearsal });
  queryClient.invalidateQueries({ queryKey: keys.walks });
});

export function useSession() {
  return useQuery({
    queryKey: keys.session,
    queryFn: readSession,
    refetchInterval: (query) => (query.state.data?.standing_in ? 30_000 : false),
  });
}

/** Whether one stands in to look only, so that nothing can be changed. */
export function useLooksOnly(): boolean {
  return useSession().data?.standing_in?.mode === "look";
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
  readTogether(false);
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

export type Mode = NonNullable<Session["standing_in"]>["mode"];
export type StandInAs = { whom: Whom; mode?: Mode; staged?: boolean; at?: string };

/** Begin to see the site as somebody has it; stepping out leads back to where one was. */
export function useStandIn() {
  const navigate = useNavigate();
  const me = useSession().data?.actor?.id;
  return useMutation({
    mutationFn: ({ whom, mode = "look", staged = false, at }: StandInAs) =>
      answer(api.POST("/api/stand-in", { body: { ...sentAs(whom), mode, staged, at, came_from: here() } })),
    onSuccess: async (_, { whom }) => {
      const account = "account" in whom ? whom.account : undefined;
      if (account === null) {
        window.location.assign("/site/");
        return;
      }
      await leave(() => navigate(account === me ? here() : "/desk"));
      await queryClient.refetchQueries({ queryKey: keys.session });
    },
  });
}

function here(): string {
  return window.location.pathname + window.location.search;
}

/** Go on for longer; or in another mode, in which what was done in a rehearsal is gone. */
export function useGoOn() {
  return useMutation({
    mutationFn: (mode: Mode | undefined) => answer(api.PATCH("/api/stand-in", { body: { mode } })),
    onSuccess: async (_, mode) => {
      await queryClient.refetchQueries({ queryKey: keys.session });
      if (mode) await queryClient.invalidateQueries({ predicate: isOther });
    },
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

/** The first place open to somebody, where they land after signing in: without any, the public site. */
export function firstPlace(session: Session): string {
  return session.places[0] ? `/${session.places[0]}` : "/site/";
}
