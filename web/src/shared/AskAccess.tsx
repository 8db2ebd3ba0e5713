// Asking for something one was refused, from where one stands, with a word.
import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { answer, api, ProblemError, type Shapes } from "../api/client";
import { Dialog, DialogButtons } from "./Dialog";
import { TextArea } from "./fields";
import { keys } from "./keys";
import { queryClient } from "./query";
import { Button } from "./ui";

export type Asked = Omit<Shapes["RequestInputRequest"], "word">;

type AskProps = {
  /** What one would do, or null while nothing is asked. */
  asked: Asked | null;
  /** The same after "Ask to", such as "edit this page". */
  words: string;
  onClose: () => void;
};

export function AskAccess({ asked, words, onClose }: AskProps) {
  return (
    <Dialog open={asked !== null} onClose={onClose} title={`Ask to ${words}`}>
      {asked && <Form asked={asked} onClose={onClose} />}
    </Dialog>
  );
}

function Form({ asked, onClose }: { asked: Asked; onClose: () => void }) {
  const [word, setWord] = useState("");
  const ask = useMutation({
    mutationFn: () => answer(api.POST("/api/requests", { body: { ...asked, word } })),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: keys.ownRequests }),
  });
  const problem = ask.error instanceof ProblemError ? ask.error : null;

  function submit(event: FormEvent) {
    event.preventDefault();
    ask.mutate();
  }

  if (ask.isSuccess)
    return (
      <div>
        <p role="status" className="text-sm">
          Asked. Those who can give it see it, and you are told by mail and under Your account.
        </p>
        <DialogButtons>
          <Button look="main" onClick={onClose}>
            Done
          </Button>
        </DialogButtons>
      </div>
    );
  return (
    <form onSubmit={submit}>
      <TextArea
        label="A word to those who decide"
        hint="What you need it for, and for how long."
        rows={3}
        value={word}
        max={500}
        onChange={setWord}
      />
      {problem && (
        <p role="alert" className="text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={ask.isPending}>
          Ask
        </Button>
      </DialogButtons>
    </form>
  );
}
