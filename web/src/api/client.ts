import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Line = Schemas["Line"];
export type Place = Schemas["Place"];
export type Desk = Schemas["Desk"];
export type Horizon = Schemas["Horizon"];
export type Reading = Schemas["Reading"];
export type Import = Schemas["Import"];
export type Preview = Schemas["Preview"];

export const api = createClient<paths>({ baseUrl: "/" });

/** A server's "no", with its status and its sentence. */
export class Refused extends Error {
  readonly status: number;
  constructor(status: number, message: string) {
    super(message);
    this.status = status;
  }
}

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** Gives the data of an answer, or throws what the server says. */
export async function ask<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new Refused(0, "Orario cannot be reached. Check the connection; nothing is lost.");
  }
  if (!answer.response.ok) {
    const said = answer.error as { message?: string } | undefined;
    throw new Refused(
      answer.response.status,
      said?.message ?? `The server answered ${answer.response.status}. Try again.`,
    );
  }
  return answer.data as T;
}
