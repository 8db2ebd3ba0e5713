// Topics: what pages are about. Each of adding, renaming and removing is a duty of its own.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, ProblemError, type Shapes } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { TextField } from "../shared/fields";
import { keys } from "../shared/keys";
import { Picker } from "../shared/Picker";
import { accessChanged, queryClient } from "../shared/query";
import { useDuty } from "../shared/session";
import { count } from "../shared/time";
import { Button, Empty, ErrorNotice, INPUT, Labelled, Loading } from "../shared/ui";
import { useTopics } from "../shared/useAccounts";

type Topic = Shapes["TopicShape"];

function changed() {
  queryClient.invalidateQueries({ queryKey: keys.topics });
  queryClient.invalidateQueries({ queryKey: ["page"] });
  accessChanged();
}

export function TopicsPlace() {
  const topics = useTopics();
  const mayAdd = useDuty("topics.add");
  return (
    <section
      aria-label="Topics"
      className="min-w-0 flex-1 overflow-y-auto px-[30px] pt-[30px] max-[760px]:px-3 max-[760px]:pt-4 pb-8"
    >
      <h1>Topics</h1>
      <p className="text-sm text-ink2">
        What pages are about. Roles can be given for some topics only, so that they follow the pages.
      </p>
      {topics.error && <ErrorNotice error={topics.error} again={topics.refetch} />}
      {topics.isPending && <Loading what="the topics" />}
      {topics.data?.length === 0 && (
        <Empty title="There is no topic yet">Add one, then put pages under it.</Empty>
      )}
      <ul className="mt-4 max-w-[640px]">
        {topics.data?.map((topic) => (
          <Row key={topic.key} topic={topic} />
        ))}
      </ul>
      {mayAdd && <Add />}
    </section>
  );
}

function Row({ topic }: { topic: Topic }) {
  const [dialog, show] = useState<"" | "rename" | "remove">("");
  const [mayRename, mayRemove] = [useDuty("topics.rename"), useDuty("topics.remove")];
  return (
    <li className="flex items-center gap-3 border-b border-line py-2">
      <p className="min-w-0 flex-1 truncate">
        <strong className="font-semibold">{topic.name}</strong>{" "}
        <span className="text-xs text-ink2">{topic.pages ? count(topic.pages, "page") : "no page yet"}</span>
      </p>
      {mayRename && (
        <Button look="quiet" aria-label={`Rename ${topic.name}`} onClick={() => show("rename")}>
          Rename
        </Button>
      )}
      {mayRemove && (
        <Button look="quiet" aria-label={`Remove ${topic.name}`} onClick={() => show("remove")}>
          Remove…
        </Button>
      )}
      <Dialog open={dialog === "rename"} onClose={() => show("")} title={`Rename ${topic.name}`}>
        <Rename topic={topic} onClose={() => show("")} />
      </Dialog>
      <Dialog open={dialog === "remove"} onClose={() => show("")} title={`Remove ${topic.name}?`}>
        <Remove topic={topic} onClose={() => show("")} />
      </Dialog>
    </li>
  );
}

function Add() {
  const [name, setName] = useState("");
  const add = useMutation({
    mutationFn: () => answer(api.POST("/api/topics", { body: { name } })),
    onSuccess: () => {
      setName("");
      changed();
    },
  });
  const problem = add.error instanceof ProblemError ? add.error : null;
  return (
    <form
      className="mt-4 max-w-[360px]"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate();
      }}
    >
      <Labelled label="A new topic" error={problem?.at("/name") ?? problem?.problem.detail}>
        {(id, by) => (
          <span className="flex gap-2">
            <input
              id={id}
              aria-describedby={by}
              value={name}
              maxLength={80}
              autoComplete="off"
              onChange={(event) => setName(event.target.value)}
              className={INPUT}
            />
            <Button type="submit" disabled={add.isPending}>
              Add
            </Button>
          </span>
        )}
      </Labelled>
    </form>
  );
}

function Rename({ topic, onClose }: { topic: Topic; onClose: () => void }) {
  const [name, setName] = useState(topic.name);
  const rename = useMutation({
    mutationFn: () =>
      answer(
        api.PATCH("/api/topics/{topic}", {
          params: { path: { topic: topic.key }, header: { "If-Match": `"${topic.version}"` } },
          body: { name },
        }),
      ),
    onSuccess: () => {
      changed();
      onClose();
    },
  });
  const problem = rename.error instanceof ProblemError ? rename.error : null;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        rename.mutate();
      }}
    >
      <TextField
        label="Name"
        error={problem?.at("/name") ?? problem?.problem.detail}
        value={name}
        max={80}
        onChange={setName}
      />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={rename.isPending}>
          Rename it
        </Button>
      </DialogButtons>
    </form>
  );
}

function Remove({ topic, onClose }: { topic: Topic; onClose: () => void }) {
  const [into, setInto] = useState("");
  const others = (useTopics().data ?? []).filter(({ key }) => key !== topic.key);
  const uses = useQuery({
    queryKey: [...keys.topics, topic.key],
    queryFn: () => answer(api.GET("/api/topics/{topic}", { params: { path: { topic: topic.key } } })),
    staleTime: 0,
  });
  const params = { path: { topic: topic.key } };
  const end = useMutation({
    mutationFn: async () => {
      if (into) await answer(api.POST("/api/topics/{topic}/merge", { params, body: { into } }));
      else await answer(api.DELETE("/api/topics/{topic}", { params }));
    },
    onSuccess: () => {
      onClose();
      changed();
    },
  });
  const told = uses.data;
  return (
    <>
      {!told && <Loading what="what names it" />}
      {told && (
        <div className="mb-3 space-y-2">
          <p>
            {told.pages
              ? `${count(told.pages, "page")}: ${told.titles.join(", ")}${told.pages > told.titles.length ? " and more" : ""}.`
              : "No page that you see is about it."}
          </p>
          {told.given !== null && told.given > 0 && (
            <p>
              {count(told.given, "thing is", "things are")} given only about it. Without the topic they would
              cover nothing.
            </p>
          )}
        </div>
      )}
      <Labelled label="Let them be about" hint="Pages, and what is given about this topic, follow.">
        {(id, by) => (
          <Picker
            id={id}
            describedBy={by}
            what="topic"
            none="Nothing instead"
            choices={others}
            value={into}
            onPick={setInto}
          />
        )}
      </Labelled>
      <ErrorNotice error={uses.error ?? end.error} />
      <DialogButtons>
        <Button onClick={onClose}>Keep it</Button>
        <Button look="main" disabled={!told || end.isPending} onClick={() => end.mutate()}>
          {into ? "Merge them" : "Remove it"}
        </Button>
      </DialogButtons>
    </>
  );
}
