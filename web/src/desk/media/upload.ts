// Sending a file: with how much of it has gone, which fetch does not tell.
import { asProblem, asScreen, NO_CONNECTION, ProblemError, type Shapes } from "../../api/client";

export type Page = Shapes["PageShape"];

type Sending = { data: FormData; tag?: string; onSent: (share: number) => void };

/** Sends a form with a file in it. Throws ProblemError. */
export function sendFile(path: string, { data, tag, onSent }: Sending): Promise<Page> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", path);
    for (const [name, value] of Object.entries(asScreen())) request.setRequestHeader(name, value);
    if (tag) request.setRequestHeader("If-Match", tag);
    request.upload.onprogress = ({ loaded, total }) => onSent(total ? loaded / total : 0);
    request.onerror = () => reject(new ProblemError(NO_CONNECTION));
    request.onload = () => {
      const told = read(request.responseText);
      if (request.status < 300) resolve(told as Page);
      else reject(new ProblemError(asProblem(told, request.status)));
    };
    request.send(data);
  });
}

function read(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
