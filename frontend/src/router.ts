import { createRouter } from "sv-router";
import Shelf from "./routes/Shelf.svelte";

// The bench brings the code view's editor with it, so it is loaded when it is first needed.
const bench = () => import("./routes/Bench.svelte");

export const { p, navigate, route } = createRouter({
  "/": Shelf,
  "/projects/:id": bench,
  "/projects/:id/:look": bench,
  "/projects/:id/:look/:part": bench,
});
