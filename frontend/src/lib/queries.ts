import { createMutation, createQuery, QueryClient } from "@tanstack/svelte-query";
import {
  api,
  bringIn,
  bringPage,
  explain,
  readCloseUp,
  type Box,
  type Outline,
  type Pin,
  type Reading,
} from "./api/client";

export const client = new QueryClient({ defaultOptions: { queries: { staleTime: 5_000, retry: 1 } } });

async function unwrap<T>(call: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  const { data, error } = await call;
  if (data === undefined) throw new Error(explain(error));
  return data;
}

export const projectsQuery = () =>
  createQuery(() => ({ queryKey: ["projects"], queryFn: () => unwrap(api.GET("/api/projects")) }));

export const projectQuery = (id: () => string) =>
  createQuery(() => ({
    queryKey: ["project", id()],
    queryFn: () => unwrap(api.GET("/api/projects/{project_id}", { params: { path: { project_id: id() } } })),
  }));

export const sourceQuery = (id: () => string | undefined) =>
  createQuery(() => ({
    queryKey: ["source", id()],
    enabled: id() !== undefined,
    queryFn: () =>
      unwrap(api.GET("/api/builds/{build_id}/source", { params: { path: { build_id: id()! } } })),
  }));

export const readingQuery = (id: () => string | undefined) =>
  createQuery(() => ({
    queryKey: ["reading", id()],
    enabled: id() !== undefined,
    staleTime: Infinity,
    retry: false,
    queryFn: () =>
      unwrap(
        api.GET("/api/builds/{build_id}/reading", { params: { path: { build_id: id()! } } }),
      ) as Promise<Reading>,
  }));

export const outlineQuery = (id: () => string | undefined) =>
  createQuery(() => ({
    queryKey: ["outline", id()],
    enabled: id() !== undefined,
    staleTime: Infinity,
    retry: false,
    queryFn: () =>
      unwrap(
        api.GET("/api/builds/{build_id}/outline", { params: { path: { build_id: id()! } } }),
      ) as Promise<Outline>,
  }));

export const coverageQuery = (id: () => string | undefined) =>
  createQuery(() => ({
    queryKey: ["coverage", id()],
    enabled: id() !== undefined,
    staleTime: Infinity,
    queryFn: () =>
      unwrap(api.GET("/api/builds/{build_id}/coverage", { params: { path: { build_id: id()! } } })),
  }));

export const formatsQuery = (build: () => string, cutout: () => number | undefined, quality: () => number) =>
  createQuery(() => ({
    queryKey: ["formats", build(), cutout(), quality()],
    enabled: cutout() !== undefined,
    staleTime: Infinity,
    queryFn: () =>
      unwrap(
        api.GET("/api/builds/{build_id}/cutouts/{cutout}/formats", {
          params: { path: { build_id: build(), cutout: cutout()! }, query: { quality: quality() } },
        }),
      ),
  }));

/** Take the picture in another scale, or without a frame around the page. */
export const pictureMutation = (project: () => string) =>
  createMutation(() => ({
    mutationFn: (body: { scale: 1 | 2 | 3; trim: number[] }) =>
      unwrap(
        api.POST("/api/projects/{project_id}/picture", { params: { path: { project_id: project() } }, body }),
      ),
    onSuccess: refresh,
  }));

export const fontsQuery = () =>
  createQuery(() => ({
    queryKey: ["fonts"],
    staleTime: Infinity,
    queryFn: () => unwrap(api.GET("/api/fonts")),
  }));

const KEPT = new Set<unknown>(["source", "reading", "outline", "fonts", "coverage", "formats", "comparison"]); // a finished build's own never change
const refresh = () => client.invalidateQueries({ predicate: (q) => !KEPT.has(q.queryKey[0]) });

export const bringInMutation = () => createMutation(() => ({ mutationFn: bringIn, onSuccess: refresh }));

export const buildAgainMutation = () =>
  createMutation(() => ({
    mutationFn: (id: string) =>
      unwrap(api.POST("/api/projects/{project_id}/builds", { params: { path: { project_id: id } } })),
    onSuccess: refresh,
  }));

export type PinChange =
  | { kind: "add"; pin: Pin }
  | { kind: "close-up"; rect: Box; file: File }
  | { kind: "remove"; index: number }
  | { kind: "undo" }
  | { kind: "redo" };

/** Change a project's pins; every change starts a new reading. */
export const pinMutation = (project: () => string) =>
  createMutation(() => ({
    mutationFn: (change: PinChange) => {
      const path = { project_id: project() };
      if (change.kind === "add")
        return unwrap(api.POST("/api/projects/{project_id}/pins", { params: { path }, body: change.pin }));
      if (change.kind === "close-up") return readCloseUp(project(), change.rect, change.file);
      if (change.kind === "remove")
        return unwrap(
          api.DELETE("/api/projects/{project_id}/pins/{index}", {
            params: { path: { ...path, index: change.index } },
          }),
        );
      return change.kind === "undo"
        ? unwrap(api.POST("/api/projects/{project_id}/pins/undo", { params: { path } }))
        : unwrap(api.POST("/api/projects/{project_id}/pins/redo", { params: { path } }));
    },
    onSuccess: refresh,
  }));

/** Keep a file of the page as it was changed by hand. */
export const codeMutation = (project: () => string) =>
  createMutation(() => ({
    mutationFn: (body: { name: "index.html" | "styles.css"; content: string }) =>
      unwrap(
        api.POST("/api/projects/{project_id}/code", { params: { path: { project_id: project() } }, body }),
      ),
    onSuccess: refresh,
  }));

export const historyQuery = (id: () => string | undefined) =>
  createQuery(() => ({
    queryKey: ["history", id()],
    enabled: id() !== undefined,
    queryFn: () =>
      unwrap(api.GET("/api/projects/{project_id}/history", { params: { path: { project_id: id()! } } })),
  }));

/** How one finished build's page differs from another's. */
export const compareQuery = (one: () => string, other: () => string | undefined) =>
  createQuery(() => ({
    queryKey: ["comparison", one(), other()],
    enabled: other() !== undefined,
    staleTime: Infinity,
    queryFn: () =>
      unwrap(
        api.GET("/api/builds/{build_id}/against/{other_id}", {
          params: { path: { build_id: one(), other_id: other()! } },
        }),
      ),
  }));

/** Make an earlier page the one in use again. */
export const returnMutation = () =>
  createMutation(() => ({
    mutationFn: (id: string) =>
      unwrap(api.POST("/api/builds/{build_id}/return", { params: { path: { build_id: id } } })),
    onSuccess: refresh,
  }));

export const bringPageMutation = (project: () => string) =>
  createMutation(() => ({
    mutationFn: (page: { address: string } | { files: File[] }) => bringPage(project(), page),
    onSuccess: refresh,
  }));

export const dropVersionMutation = () =>
  createMutation(() => ({
    mutationFn: (id: string) =>
      unwrap(api.DELETE("/api/pages/{build_id}", { params: { path: { build_id: id } } })),
    onSuccess: refresh,
  }));

export const cancelMutation = () =>
  createMutation(() => ({
    mutationFn: (id: string) =>
      unwrap(api.POST("/api/builds/{build_id}/cancel", { params: { path: { build_id: id } } })),
    onSuccess: refresh,
  }));

export const deleteMutation = () =>
  createMutation(() => ({
    mutationFn: (id: string) =>
      unwrap(api.DELETE("/api/projects/{project_id}", { params: { path: { project_id: id } } })),
    onSuccess: refresh,
  }));

/** Follow the server's events; what changed is fetched again (at once when a build has ended), and everything is after a lost connection. */
export function follow(): () => void {
  const source = new EventSource("/api/events");
  let waiting: ReturnType<typeof setTimeout> | undefined;
  const now = () => {
    clearTimeout(waiting);
    waiting = undefined;
    void refresh();
  };
  // a changed value is proven sooner than this: until then the machine has better things to do
  const later = () => (waiting ??= setTimeout(now, 300));
  source.addEventListener("build", (e: MessageEvent<string>) => {
    const told = JSON.parse(e.data) as { build: string | null; ended?: boolean } | null;
    if (!told?.ended) return void later();
    new Image().src = `/api/builds/${told.build}/page`; // on its way while the rest is asked for
    now();
  });
  source.addEventListener("hello", later);
  return () => {
    clearTimeout(waiting);
    source.close();
  };
}
