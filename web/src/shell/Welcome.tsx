// Where a link from a mail leads: an invitation, a new password, a new address. Its secret stays behind the #.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useLocation, useNavigate } from "react-router";
import { answer, api, ProblemError, type Shapes } from "../api/client";
import { NewPassword } from "../shared/NewPassword";
import { cameIn, firstPlace, useSession } from "../shared/session";
import { Button, Loading } from "../shared/ui";
import { Door } from "./Door";

export function Welcome() {
  const session = useSession(); // brings the token that the questions need
  const secret = useLocation().hash.slice(1);
  const ticket = useQuery({
    queryKey: ["welcome", secret],
    queryFn: () => answer(api.POST("/api/welcome", { body: { secret } })),
    enabled: session.isSuccess && secret !== "",
    retry: false,
  });
  if (ticket.error || secret === "")
    return (
      <Door title="This link is over" says="It was used, or its time is up.">
        <a href="/sign-in" className="text-sm underline">
          Sign in, or ask for another one
        </a>
      </Door>
    );
  if (!ticket.data) return <Loading what="what this link is for" />;
  return ticket.data.purpose === "email" ? (
    <Confirm secret={secret} ticket={ticket.data} />
  ) : (
    <Choose secret={secret} ticket={ticket.data} />
  );
}

type TicketProps = { secret: string; ticket: Shapes["WelcomeShape"] };

function useTicket(secret: string) {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: (password?: string) => answer(api.POST("/api/welcome/use", { body: { secret, password } })),
    onSuccess: (session) => {
      cameIn(session);
      navigate(session.actor ? firstPlace(session) : "/sign-in", { replace: true });
    },
  });
}

function Choose({ secret, ticket }: TicketProps) {
  const [password, setPassword] = useState("");
  const use = useTicket(secret);
  const problem = use.error instanceof ProblemError ? use.error : null;
  const invited = ticket.purpose === "invitation";
  return (
    <Door
      title={invited ? `Welcome, ${ticket.name}` : "A new password"}
      says={`You sign in with ${ticket.email}. ${invited ? "Choose a password for it." : "Everywhere else you are signed out."}`}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          use.mutate(password);
        }}
      >
        <NewPassword
          value={password}
          onChange={setPassword}
          secret={secret}
          error={problem?.at("/password")}
        />
        {problem && (
          <p role="alert" className="mb-3 text-sm text-bar">
            {problem.problem.detail}
          </p>
        )}
        <Button type="submit" look="main" className="w-full" disabled={use.isPending || password === ""}>
          {invited ? "Choose it and come in" : "Choose it and sign in"}
        </Button>
      </form>
    </Door>
  );
}

function Confirm({ secret, ticket }: TicketProps) {
  const use = useTicket(secret);
  const problem = use.error instanceof ProblemError ? use.error : null;
  return (
    <Door title="Your new address" says={`${ticket.new_email} instead of ${ticket.email}, to sign in with.`}>
      {problem && (
        <p role="alert" className="mb-3 text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
      <Button look="main" className="w-full" disabled={use.isPending} onClick={() => use.mutate(undefined)}>
        Confirm it
      </Button>
    </Door>
  );
}
