// People: the profiles that one may see, found by name, and what one may change of each.

import { useInfiniteQuery, useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { answer, answerWithTag, api, ProblemError, type Shapes } from "../api/client";
import { ClosedRows } from "../shared/Closed";
import { keys } from "../shared/keys";
import { Portrait } from "../shared/Portrait";
import { queryClient } from "../shared/query";
import { useLooksOnly } from "../shared/session";
import { Button, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import { useSettled } from "../shared/useSettled";
import { ProfileFields, profileOf } from "../shared/who";

const PAGE = 60;

export function PeoplePlace() {
  const [words, setWords] = useState("");
  const [chosen, choose] = useParam("person");
  const people = useProfiles(useSettled(words.trim()));
  const rows = people.data?.pages.flat() ?? [];
  return (
    <>
      <section
        aria-label="People"
        className="flex w-[300px] shrink-0 flex-col border-r border-line px-[20px] pt-[30px] max-[760px]:w-full max-[760px]:px-3 max-[760px]:pt-4"
      >
        <h1>People</h1>
        <input
          aria-label="Part of a name"
          placeholder="Part of a name"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          className={`${INPUT} mt-2`}
        />
        {people.error && <ErrorNotice error={people.error} again={people.refetch} />}
        {people.isPending && <Loading what="the people" />}
        {people.data && rows.length === 0 && (
          <Empty title={words ? "Nobody is called that" : "Nobody here"}>
            {words ? "" : "There is nobody whose profile you may see."}
          </Empty>
        )}
        <ul className="mt-2 min-h-0 flex-1 overflow-y-auto pb-6">
          {rows.map(({ id, name }) => (
            <li key={id}>
              <button
                type="button"
                aria-current={chosen === id || undefined}
                onClick={() => choose(id)}
                className={`block w-full truncate rounded-[4px] px-2 py-1.5 text-left ${chosen === id ? "bg-linen2 font-semibold" : "hover:bg-linen2"}`}
              >
                {name}
              </button>
            </li>
          ))}
          {people.hasNextPage && (
            <li className="p-2">
              <Button disabled={people.isFetchingNextPage} onClick={() => people.fetchNextPage()}>
                Show more
              </Button>
            </li>
          )}
        </ul>
        <ClosedRows of="people" />
      </section>
      <section aria-label="Profile" className="min-w-0 flex-1 overflow-y-auto px-[30px] pt-[30px] pb-8">
        {chosen ? (
          <Person key={chosen} account={chosen} />
        ) : (
          <Empty title="Choose somebody">Their profile is shown here.</Empty>
        )}
      </section>
    </>
  );
}

function useProfiles(words: string) {
  return useInfiniteQuery({
    queryKey: keys.profiles(words),
    queryFn: ({ pageParam }) =>
      answer(api.GET("/api/desk/people", { params: { query: { words, limit: PAGE, offset: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => (last.length === PAGE ? pages.length * PAGE : undefined),
    placeholderData: (before) => before,
  });
}

function Person({ account }: { account: string }) {
  const read = useQuery({
    queryKey: keys.profile(account),
    queryFn: () => answerWithTag(api.GET("/api/desk/people/{account}", { params: { path: { account } } })),
    retry: false,
  });
  const gone = read.error instanceof ProblemError && read.error.problem.status === 404;
  if (gone) return <Empty title="Nobody is there, or you may not see them">Choose somebody else.</Empty>;
  if (read.error) return <ErrorNotice error={read.error} again={read.refetch} />;
  if (!read.data) return <Loading what="the profile" />;
  const { data, tag } = read.data;
  return (
    <div className="max-w-[420px]">
      <div className="mb-4 flex items-center gap-3">
        <Portrait name={data.name} picture={data.portrait} />
        <h2 className="min-w-0 truncate">{data.name}</h2>
      </div>
      <Fields person={data} tag={tag} onReadAnew={read.refetch} />
    </div>
  );
}

type FieldsProps = { person: Shapes["ProfileShape"]; tag: string; onReadAnew: () => Promise<unknown> };

function Fields({ person, tag, onReadAnew }: FieldsProps) {
  const [began, begin] = useState(tag);
  const [typed, type] = useState<Record<string, unknown> | null>(null);
  const values = typed ?? profileOf(person.profile);
  const looks = useLooksOnly();
  const save = useMutation({
    mutationFn: () =>
      answerWithTag(
        api.PATCH("/api/desk/people/{account}", {
          params: { path: { account: person.id }, header: { "If-Match": typed ? began : tag } },
          body: { profile: values },
        }),
      ),
    onSuccess: (saved) => {
      queryClient.setQueryData(keys.profile(person.id), saved);
      queryClient.invalidateQueries({ queryKey: keys.accounts });
      type(null);
    },
  });
  const stale = save.error instanceof ProblemError && save.error.problem.status === 412;
  const open = !looks && person.profile.some(({ may_change }) => may_change);
  if (person.profile.length === 0) return <p className="text-ink2">None of its fields is shown to you.</p>;

  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }

  return (
    <form onSubmit={submit} noValidate>
      <ProfileFields
        values={values}
        onChange={(next) => {
          // What one began to type over counts, even if the profile is read anew meanwhile.
          if (!typed) begin(tag);
          type(next);
        }}
        profile={person.profile}
        problem={save.error instanceof ProblemError ? save.error : null}
      />
      {!(save.error instanceof ProblemError && save.error.problem.errors) && (
        <ErrorNotice error={save.error} />
      )}
      {stale && (
        <Button
          className="mb-2"
          onClick={async () => {
            await onReadAnew();
            type(null);
            save.reset();
          }}
        >
          Show how it is now
        </Button>
      )}
      {open && (
        <Button type="submit" look="main" disabled={!typed || save.isPending}>
          Save
        </Button>
      )}
      <p role="status" className="mt-2 text-sm text-ink2">
        {save.isSuccess && !typed ? "Saved." : ""}
      </p>
    </form>
  );
}
