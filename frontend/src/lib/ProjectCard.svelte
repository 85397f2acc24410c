<script lang="ts">
  import type { Project } from "./api/client";
  import { ago, percent, pixels } from "./format";
  import { deleteMutation } from "./queries";
  import { p } from "../router";
  import { AlertDialog } from "bits-ui";

  let { project }: { project: Project } = $props();
  const remove = deleteMutation();
  const build = $derived(project.shown ?? project.build);
  const proof = $derived(build?.proof);
  const src = $derived(
    build ? `/api/builds/${build.id}/${build.state === "done" ? "thumbnail" : "picture"}` : undefined,
  );
</script>

<li class="group relative bg-paper">
  <a href={p("/projects/:id", { params: { id: project.id } })} class="block">
    <span class="relative block aspect-[3/2] overflow-hidden border-b border-drift bg-drift">
      {#if src}<img {src} alt="" loading="lazy" class="size-full object-cover object-top" />{/if}
      {#if build?.state === "done"}
        <span class="absolute inset-y-0 left-1/2 w-0.5 -translate-x-1/2 bg-signal" aria-hidden="true"></span>
      {:else if build?.state === "queued" || build?.state === "running"}
        <span class="absolute inset-x-0 bottom-0 bg-ink/85 px-3 py-1.5 text-sm text-paper" role="status">
          {build.steps.at(-1)?.what ?? "Waiting for a worker"}
        </span>
      {:else}
        <span class="absolute inset-x-0 bottom-0 bg-signal px-3 py-1.5 text-sm text-paper">
          {build?.state === "failed" ? "Could not be built" : "Cancelled"}
        </span>
      {/if}
    </span>
    <span class="block px-4 pt-3 font-semibold group-hover:underline">{project.name}</span>
  </a>
  <dl class="flex flex-wrap gap-x-3 px-4 pt-1 pb-4 text-sm whitespace-nowrap text-ash">
    {#if proof}
      <div>
        <dt class="sr-only">words found</dt>
        <dd><b class="font-semibold text-ink">{proof.words_found}/{proof.words_seen}</b> words</dd>
      </div>
      <div>
        <dt class="sr-only">median offset</dt>
        <dd><b class="font-semibold text-ink">{pixels(proof.position_px)}</b> off</dd>
      </div>
      <div>
        <dt class="sr-only">structural similarity</dt>
        <dd><b class="font-semibold text-ink">{percent(proof.ssim)}</b> alike</dd>
      </div>
    {/if}
    <div class="basis-full">
      <dt class="sr-only">last touched</dt>
      <dd>{ago(project.touched_at)}</dd>
    </div>
  </dl>
  <AlertDialog.Root>
    <AlertDialog.Trigger
      class="absolute top-2 right-2 bg-paper/90 px-2 py-0.5 text-sm text-ash opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 hover:text-signal"
      aria-label={`Delete ${project.name}`}>Delete</AlertDialog.Trigger
    >
    <AlertDialog.Portal>
      <AlertDialog.Overlay class="fixed inset-0 z-40 bg-ink/40" />
      <AlertDialog.Content
        class="fixed top-1/3 left-1/2 z-50 w-[26rem] -translate-x-1/2 bg-paper p-6 text-ink shadow-xl"
      >
        <AlertDialog.Title class="text-lg font-semibold">Delete “{project.name}”?</AlertDialog.Title>
        <AlertDialog.Description class="mt-2 text-ash">
          Its picture, pages and proofs go with it. This cannot be undone.
        </AlertDialog.Description>
        <div class="mt-5 flex justify-end gap-3">
          <AlertDialog.Cancel class="px-4 py-2 hover:underline">Keep it</AlertDialog.Cancel>
          <AlertDialog.Action
            class="bg-signal px-4 py-2 font-semibold text-paper"
            onclick={() => remove.mutate(project.id)}
          >
            Delete
          </AlertDialog.Action>
        </div>
      </AlertDialog.Content>
    </AlertDialog.Portal>
  </AlertDialog.Root>
</li>
