// Where a link from a mail leads: an invitation, a new password, a new address. Its secret stays behind the #.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useLocation, useNavigate } from "react-router";
import { answer, api, ProblemError, type Shapes } from "../api/client";
import { TextField } from "../shared/fields";
import { NewPassword } from "../shared/NewPassword";
import { cameIn, useSession } from "../shared/session";
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
  if (ticket.data.purpose === "first") return <First secret={secret} />;
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
    mutationFn: (said: Omit<Shapes["UseInputRequest"], "secret">) =>
      answer(api.POST("/api/welcome/use", { body: { secret, ...said } })),
    onSuccess: (session) => {
      cameIn(session);
      navigate("/sign-in", { replace: true }); // which leads on whoever is signed in
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
          use.mutate({ password });
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

/** Whoever opens the link that was printed on the first start says who they are, and holds the keys. */
function First({ secret }: { secret: string }) {
  const [said, say] = useState({ name: "", email: "", password: "" });
  const use = useTicket(secret);
  const problem = use.error instanceof ProblemError ? use.error : null;
  return (
    <Door
      title="Begin with yourself"
      says="You become the keyholder of this installation: you may do everything, always, and give others what they need."
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          use.mutate(said);
        }}
      >
        <TextField
          label="Your name"
          error={problem?.at("/name")}
          value={said.name}
          max={120}
          onChange={(name) => say({ ...said, name })}
        />
        <TextField
          label="E-mail address"
          hint="It is what you sign in with."
          error={problem?.at("/email")}
          value={said.email}
          max={254}
          onChange={(email) => say({ ...said, email })}
        />
        <NewPassword
          value={said.password}
          onChange={(password) => say({ ...said, password })}
          secret={secret}
          error={problem?.at("/password")}
        />
        {problem && !problem.problem.errors && (
          <p role="alert" className="mb-3 text-sm text-bar">
            {problem.problem.detail}
          </p>
        )}
        <Button
          type="submit"
          look="main"
          className="w-full"
          disabled={use.isPending || Object.values(said).some((one) => one.trim() === "")}
        >
          Take the keys
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
      <Button look="main" className="w-full" disabled={use.isPending} onClick={() => use.mutate({})}>
        Confirm it
      </Button>
    </Door>
  );
}
