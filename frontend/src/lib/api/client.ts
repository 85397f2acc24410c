import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Project = components["schemas"]["ProjectOut"];
export type Build = components["schemas"]["BuildOut"];
export type Proof = components["schemas"]["ProofOut"];
export type Round = components["schemas"]["RoundOut"];
export type Version = components["schemas"]["VersionOut"];
export type Finding = components["schemas"]["FindingOut"];
type Schemas = components["schemas"];
export type Shadow = Schemas["Shadow"];
export type Surface = Required<Schemas["Surface"]>;
export type Cutout = Required<Schemas["Cutout"]>;
export type Reading = Omit<Schemas["ReadingOut"], "surfaces" | "cutouts"> & {
  surfaces: Surface[];
  cutouts: Cutout[];
};
export type Format = Schemas["FormatOut"];
export type Line = components["schemas"]["LineOut"];
export type TypeStyle = components["schemas"]["StyleOut"];
export type Pin = Omit<components["schemas"]["PinOut"], "says"> & { says?: string };
export type Part = Omit<
  Required<Schemas["Part"]>,
  "lines" | "padding" | "columns" | "classes" | "reasons"
> & {
  lines: [number, number];
  padding: [number, number, number, number];
  columns: number[];
  classes: string[];
  reasons: string[];
};
export type Outline = Omit<Schemas["OutlineOut"], "parts"> & { parts: Part[] };
export type Box = components["schemas"]["Box"];
export type Source = components["schemas"]["Source"];

export const api = createClient<paths>({ baseUrl: "/" });

/** A problem document's own words, or what can be said without one. */
export function explain(error: unknown): string {
  if (error && typeof error === "object" && "detail" in error) {
    const { detail, title } = error as { detail?: string; title?: string };
    return detail || title || "Something went wrong.";
  }
  return error instanceof Error ? error.message : "The server did not answer. Is it running?";
}

/** Prove a page somebody wrote against a project's picture; an error's message says what is wrong with it. */
export async function bringPage(
  project: string,
  page: { address: string } | { files: File[] },
): Promise<Version> {
  const form = new FormData();
  if ("address" in page) form.append("address", page.address);
  else for (const file of page.files) form.append("files", file, file.webkitRelativePath || file.name);
  const answer = await fetch(`/api/projects/${project}/pages`, { method: "POST", body: form });
  const body: unknown = await answer.json().catch(() => null);
  if (!answer.ok) throw new Error(explain(body));
  return body as Version;
}

/** Read a place again from a larger picture of it. */
export async function readCloseUp(project: string, rect: Box, file: File): Promise<Project> {
  const form = new FormData();
  form.append("file", file, file.name || "close-up.png");
  for (const [k, v] of Object.entries(rect)) form.append(k, `${v}`);
  const answer = await fetch(`/api/projects/${project}/close-ups`, { method: "POST", body: form });
  const body: unknown = await answer.json().catch(() => null);
  if (!answer.ok) throw new Error(explain(body));
  return body as Project;
}

/** Bring a picture in; the new project, or an error whose message says what is wrong with the file. */
export async function bringIn(file: File): Promise<Project> {
  const form = new FormData();
  form.append("file", file, file.name || "pasted picture.png");
  const answer = await fetch("/api/projects", { method: "POST", body: form });
  const body: unknown = await answer.json().catch(() => null);
  if (!answer.ok) throw new Error(explain(body));
  return body as Project;
}
