<script lang="ts">
  import { bringInMutation } from "./queries";
  import { navigate } from "../router";

  let { compact = false }: { compact?: boolean } = $props();
  const bring = bringInMutation();
  let over = $state(0);
  let input: HTMLInputElement;

  async function take(files: Iterable<File>) {
    const file = [...files][0];
    if (!file) return;
    try {
      const project = await bring.mutateAsync(file);
      void navigate("/projects/:id", { params: { id: project.id } });
    } catch {
      // shown below: the mutation keeps its error
    }
  }

  function paste(event: ClipboardEvent) {
    const files = event.clipboardData?.files;
    if (files?.length) {
      event.preventDefault();
      void take(files);
    }
  }

  function drop(event: DragEvent) {
    event.preventDefault();
    over = 0;
    void take(event.dataTransfer?.files ?? []);
  }
</script>

<svelte:window
  onpaste={paste}
  ondragenter={(e) => e.dataTransfer?.types.includes("Files") && over++}
  ondragleave={() => (over = Math.max(0, over - 1))}
  ondragover={(e) => e.preventDefault()}
  ondrop={drop}
/>

<section
  aria-label="Bring a picture in"
  class={[
    "border-l-4 bg-paper transition-colors",
    over ? "border-signal" : "border-firn",
    compact ? "flex flex-wrap items-center gap-x-5 gap-y-2 px-5 py-3" : "px-10 py-12",
  ]}
>
  <div>
    <h2 class={compact ? "font-semibold" : "text-2xl font-semibold"}>
      {over ? "Let go to bring it in" : "Bring a picture of a page in"}
    </h2>
    <p class="text-ash">
      Drop it anywhere, paste it, or choose a file. PNG, JPEG, WebP, AVIF, GIF, BMP or TIFF.
    </p>
  </div>
  <button
    class={[
      "bg-ink px-4 py-2 font-semibold text-paper hover:bg-firn disabled:opacity-60",
      compact ? "ml-auto" : "mt-5",
    ]}
    disabled={bring.isPending}
    onclick={() => input.click()}
  >
    {bring.isPending ? "Looking at it…" : "Choose a file"}
  </button>
  <input
    bind:this={input}
    type="file"
    accept="image/*"
    class="sr-only"
    tabindex="-1"
    aria-label="Picture file"
    onchange={(e) => {
      void take(e.currentTarget.files ?? []);
      e.currentTarget.value = "";
    }}
  />
  {#if bring.error}
    <p role="alert" class="basis-full pt-2 font-semibold text-signal">
      {bring.error.message} <span class="font-normal text-ash">Nothing was stored.</span>
    </p>
  {/if}
</section>
