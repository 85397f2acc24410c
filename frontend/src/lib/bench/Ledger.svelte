<script lang="ts">
  import type { Build, Project, Round } from "../api/client";
  import { percent, pixels } from "../format";

  let { build, project, onagain }: { build: Build; project: Project; onagain: () => void } = $props();
  const proof = $derived(build.proof!);
  const seconds = $derived(
    build.finished_at ? (Date.parse(build.finished_at) - Date.parse(build.created_at)) / 1000 : 0,
  );
  const rows = $derived([
    {
      name: "Words found",
      value: `${proof.words_found} of ${proof.words_seen}`,
      good: proof.words_found >= 0.97 * proof.words_seen,
    },
    {
      name: "Words not in the picture",
      value: `${proof.words_extra}`,
      good: proof.words_extra <= 0.02 * proof.words_seen,
    },
    { name: "Within 2 px", value: percent(proof.within_2px), good: proof.within_2px >= 0.92 },
    { name: "Median offset", value: pixels(proof.position_px), good: proof.position_px <= 1 },
    { name: "90 % are within", value: pixels(proof.position_p90_px), good: proof.position_p90_px <= 3 },
    { name: "Type size error", value: percent(proof.size_error), good: proof.size_error <= 0.02 },
    { name: "Colour difference", value: `${proof.delta_e.toFixed(2)} ΔE00`, good: proof.delta_e <= 1.5 },
    { name: "Structural similarity", value: proof.ssim.toFixed(4), good: proof.ssim >= 0.92 },
    { name: "Marks covered", value: percent(proof.coverage), good: proof.coverage >= 0.9 },
    { name: "Sideways overflow", value: pixels(proof.overflow_px), good: proof.overflow_px <= 1 },
  ]);
</script>

{#snippet told(round: Round, i: number)}
  <span class={["text-ash", round.values?.length && "underline decoration-drift underline-offset-4"]}
    >{i === 0
      ? "as first written"
      : round.changes
        ? `${round.changes} ${round.changes === 1 ? "value" : "values"} changed`
        : "tidied: shared and whole values"}</span
  >
  <span class={round.kept ? "font-semibold" : "text-ash line-through"}>{pixels(round.error)}</span>
{/snippet}

<aside class="min-h-0 overflow-auto border-l border-drift bg-paper px-5 py-4" aria-label="Ledger">
  <h2 class="font-semibold">Proof</h2>
  <table class="mt-2 w-full">
    <tbody>
      {#each rows as row (row.name)}
        <tr class="border-b border-drift">
          <th scope="row" class="py-1.5 text-left font-normal text-ash">{row.name}</th>
          <td class={["py-1.5 text-right font-semibold", !row.good && "text-signal"]}>
            {row.value}<span
              class="ml-1.5 inline-block w-3 font-normal"
              title={row.good ? "within its aim" : "short of its aim"}>{row.good ? "·" : "▲"}</span
            >
          </td>
        </tr>
      {/each}
    </tbody>
  </table>

  <h2 class="mt-6 font-semibold">Height</h2>
  <table class="mt-2 w-full">
    <thead class="text-ash">
      <tr
        ><th class="text-left font-normal">seen</th><th class="text-left font-normal">drawn</th><th
          class="text-right font-normal">residual</th
        ></tr
      >
    </thead>
    <tbody>
      <tr class="font-semibold">
        <td>{proof.height}</td><td>{proof.drawn_height}</td>
        <td class={["text-right", Math.abs(proof.drawn_height - proof.height) > 2 && "text-signal"]}>
          {proof.drawn_height >= proof.height ? "+" : "−"}{Math.abs(proof.drawn_height - proof.height)} px
        </td>
      </tr>
    </tbody>
  </table>

  <h2 class="mt-6 font-semibold">Rounds of correction</h2>
  <ol class="mt-2">
    {#each proof.rounds as round, i (i)}
      <li class="border-b border-drift py-1">
        {#if round.values?.length}
          <details>
            <summary class="flex cursor-pointer justify-between" title="What it changed in the style sheet">
              {@render told(round, i)}
            </summary>
            <ul class="mt-1 mb-2 space-y-1 font-mono text-xs [overflow-wrap:anywhere]">
              {#each round.values as value (value)}<li>{value}</li>{/each}
            </ul>
          </details>
        {:else}
          <p class="flex justify-between">{@render told(round, i)}</p>
        {/if}
      </li>
    {/each}
  </ol>

  <p class="mt-6 text-ash">
    {project.picture?.name}, built in {seconds.toFixed(1)} s
  </p>
  <button class="mt-3 border border-drift px-3 py-1.5 hover:border-ink" onclick={onagain}
    >Build it again</button
  >
</aside>
