<script lang="ts">
  import type { Build } from "./api/client";

  let { build }: { build: Build } = $props();

  const ORDER = [
    ["intake", "Bring in"],
    ["text", "Find words"],
    ["type", "Fit type"],
    ["surfaces", "Measure surfaces"],
    ["outline", "Outline"],
    ["correct", "Draw and correct"],
    ["write", "Write"],
    ["prove", "Prove"],
  ] as const;

  const last = (stage: string) => build.steps.filter((s) => s.stage === stage).at(-1)?.what;
  const reached = $derived(ORDER.findLastIndex(([id]) => last(id) !== undefined));
</script>

<ol class="grid gap-1.5" aria-label="Stages of the build">
  {#each ORDER as [id, label], i (id)}
    {@const what = last(id)}
    <li class="grid grid-cols-[1rem_9rem_1fr] items-baseline gap-2" class:text-ash={!what}>
      <span
        aria-hidden="true"
        class={[
          "inline-block size-2.5 self-center border border-firn",
          what && "bg-firn",
          build.state === "running" && i === reached + 1 && "animate-pulse bg-drift",
        ]}
      ></span>
      <span class={what ? "font-semibold" : ""}>{label}</span>
      <span class="truncate text-ash">{what ?? ""}</span>
    </li>
  {/each}
</ol>
