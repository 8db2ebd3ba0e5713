// The first page of an empty installation: a first site, what visitors see of it, and roles to begin with.
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { answer, api, ProblemError } from "../api/client";
import { TextField } from "../shared/fields";
import { queryClient } from "../shared/query";
import { Button, ErrorNotice } from "../shared/ui";

const SEEN = [
  { visitors: true, name: "Everybody sees what is published", note: "A public site." },
  { visitors: false, name: "Only whoever signs in", note: "A site for people who have an account here." },
];

export function Begin() {
  const [name, setName] = useState("");
  const [visitors, setVisitors] = useState(true);
  const [starters, setStarters] = useState(true);
  const navigate = useNavigate();
  const begin = useMutation({
    mutationFn: () => answer(api.POST("/api/begin", { body: { name, visitors, starters } })),
    onSuccess: async () => {
      await queryClient.invalidateQueries();
      navigate("/define");
    },
  });
  const problem = begin.error instanceof ProblemError ? begin.error : null;
  return (
    <section className="m-auto w-[480px] max-w-[94vw] py-8">
      <h1>Begin with a first site</h1>
      <p className="mb-5 text-ink2">
        It gets a home page and a folder for its media. Everything said here can be changed later.
      </p>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          begin.mutate();
        }}
      >
        <TextField
          label="Its name"
          hint="Its address is made from it."
          error={problem?.at("/name")}
          value={name}
          max={120}
          onChange={setName}
        />
        <fieldset className="mb-4">
          <legend className="mb-1 text-sm font-semibold">What visitors see</legend>
          {SEEN.map((one) => (
            <label key={one.name} className="flex items-baseline gap-2 py-1">
              <input
                type="radio"
                name="visitors"
                checked={visitors === one.visitors}
                onChange={() => setVisitors(one.visitors)}
              />
              <span>
                {one.name} <span className="text-xs text-ink2">{one.note}</span>
              </span>
            </label>
          ))}
        </fieldset>
        <label className="mb-5 flex items-baseline gap-2">
          <input type="checkbox" checked={starters} onChange={() => setStarters(!starters)} />
          <span>
            With roles to begin with{" "}
            <span className="text-xs text-ink2">Nobody holds them yet; keep those that fit.</span>
          </span>
        </label>
        {problem && !problem.problem.errors && <ErrorNotice error={problem} />}
        <Button type="submit" look="main" disabled={begin.isPending}>
          Begin
        </Button>
      </form>
    </section>
  );
}
