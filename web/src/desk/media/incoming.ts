// Files on their way in: a few at a time, each with how far it is and what became of it, wherever one goes meanwhile.
import { useSyncExternalStore } from "react";
import { ProblemError } from "../../api/client";
import { keys } from "../../shared/keys";
import { queryClient } from "../../shared/query";
import { type Page, sendFile } from "./upload";

export type Incoming = {
  id: number;
  file: File;
  folder: string;
  state: "waiting" | "sending" | "done" | "refused";
  /** How much of it has gone, from 0 to 1. */
  sent: number;
  /** Why it was refused. */
  told: string;
  /** What it became. */
  page: Page | null;
};

const AT_ONCE = 3;
export const MOST = 100;
export const LARGEST_FILE = 40 * 1024 * 1024;

let all: Incoming[] = [];
let next = 1;
const listeners = new Set<() => void>();

function set(changed: Incoming[]) {
  all = changed;
  for (const tell of listeners) tell();
}

function put(id: number, more: Partial<Incoming>) {
  set(all.map((one) => (one.id === id ? { ...one, ...more } : one)));
}

/** Has files brought into a folder, as far as there is room for them. */
export function bringIn(folder: string, files: File[]) {
  const room = MOST - all.filter(({ state }) => state === "waiting" || state === "sending").length;
  const come = files.map((file, place): Incoming => {
    const told =
      place >= room
        ? `At most ${MOST} come in at once. Bring it in after the others.`
        : file.size > LARGEST_FILE
          ? `A file has at most ${LARGEST_FILE / 1024 / 1024} MB.`
          : "";
    return { id: next++, file, folder, state: told ? "refused" : "waiting", sent: 0, told, page: null };
  });
  set([...all, ...come]);
  goOn();
}

/** Tries one once more that did not come in. */
export function again(id: number) {
  put(id, { state: "waiting", sent: 0, told: "" });
  goOn();
}

/** Takes those off the list that are over. */
export function clear() {
  set(all.filter(({ state }) => state === "waiting" || state === "sending"));
}

/** All that came and comes, the first first. */
export function listed(): Incoming[] {
  return all;
}

export function useIncoming(): Incoming[] {
  return useSyncExternalStore((listen) => {
    listeners.add(listen);
    return () => listeners.delete(listen);
  }, listed);
}

function goOn() {
  const free = AT_ONCE - all.filter(({ state }) => state === "sending").length;
  for (const one of all.filter(({ state }) => state === "waiting").slice(0, free)) send(one);
}

async function send({ id, file, folder }: Incoming) {
  put(id, { state: "sending" });
  const data = new FormData();
  data.set("folder", folder);
  data.set("file", file);
  try {
    const page = await sendFile("/api/desk/media", { data, onSent: (sent) => put(id, { sent }) });
    put(id, { state: "done", sent: 1, page });
    for (const queryKey of [keys.files, keys.deskTrees]) queryClient.invalidateQueries({ queryKey });
  } catch (error) {
    put(id, { state: "refused", told: words(error) });
  }
  goOn();
}

/** Why, in a sentence: what is wrong with the file, or with where it was to go. */
export function words(error: unknown): string {
  if (!(error instanceof ProblemError)) return String(error);
  return error.at("/file") ?? error.at("/folder") ?? error.problem.detail;
}
