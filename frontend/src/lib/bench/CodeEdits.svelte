<script lang="ts">
  import type { Pin, Project } from "../api/client";
  import type { PinChange } from "../queries";
  import UndoRedo from "./UndoRedo.svelte";

  let { project, onchange }: { project: Project; onchange: (change: PinChange) => void } = $props();
  const edits = $derived(
    project.pins.map((pin, index) => ({ pin, index })).filter(({ pin }) => pin.kind === "code"),
  );

  /** The lines of a change: taken out, put in, or around it. */
  function lines(pin: Pin): { mark: "−" | "+" | " "; text: string }[] {
    const [old, now] = [(pin.text ?? "").split("\n"), (pin.to ?? "").split("\n")];
    let head = 0;
    while (head < old.length && head < now.length && old[head] === now[head]) head++;
    let tail = 0;
    while (
      tail < old.length - head &&
      tail < now.length - head &&
      old[old.length - 1 - tail] === now[now.length - 1 - tail]
    )
      tail++;
    const both = [
      ...old.slice(head, old.length - tail).map((text) => ({ mark: "−" as const, text })),
      ...now.slice(head, now.length - tail).map((text) => ({ mark: "+" as const, text })),
    ];
    const indent = Math.min(...both.filter((l) => l.text.trim()).map((l) => l.text.search(/\S/)));
    return both.map((l) => ({ ...l, text: l.text.slice(Number.isFinite(indent) ? indent : 0) }));
  }
</script>

<aside class="min-h-0 overflow-auto border-l border-drift bg-paper px-5 py-4" aria-label="Ledger">
  <h2 class="font-semibold">Changes by hand</h2>
  {#if edits.length}
    <p class="mt-1 text-ash">They are put into every later page of this project.</p>
    {#each edits as { pin, index } (index)}
      <section class="mt-3" aria-label={pin.says}>
        <div class="flex items-baseline">
          <h3 class="text-sm font-semibold">{pin.name}</h3>
          <button
            class="ml-auto text-sm text-ash underline hover:text-ink"
            onclick={() => onchange({ kind: "remove", index })}>take back</button
          >
        </div>
        <pre
          class="mt-1 max-h-60 overflow-auto bg-snow p-2 font-mono text-xs leading-5 whitespace-pre-wrap">{#each lines(pin) as l, i (i)}<span
              class={["block", l.mark === "−" ? "text-ash line-through" : "font-semibold"]}
              >{l.mark} {l.text}</span
            >{/each}</pre>
      </section>
    {/each}
  {:else}
    <p class="mt-1 text-ash">
      None yet. Change the code and keep it (Ctrl S): each changed place is remembered and put into every
      later page.
    </p>
  {/if}
  <div class="mt-6 flex gap-3"><UndoRedo {project} {onchange} /></div>
</aside>
