<script lang="ts">
  import { fontsQuery, type PinChange } from "../queries";
  import type { Project, Reading } from "../api/client";
  import { following, lineText, merge, notText, retype, setType, split } from "../pins";
  import Crop from "./Crop.svelte";
  import PinList from "./PinList.svelte";

  let {
    reading,
    build,
    project,
    selected,
    onchange,
  }: {
    reading: Reading;
    build: string;
    project: Project;
    selected?: number;
    onchange: (change: PinChange) => void;
  } = $props();

  const fonts = fontsQuery();
  const line = $derived(selected === undefined ? undefined : reading.lines[selected]);
  const style = $derived(line ? reading.styles[line.style] : undefined);
  const next = $derived(line ? following(reading.lines, line) : undefined);
  let draft = $derived(line ? lineText(line) : "");
  const doubtful = $derived(reading.lines.filter((l) => l.words.some((w) => w.confidence < 0.85)).length);
  const family = $derived(fonts.data?.families.find((f) => f.family === style?.family));
  const weights = $derived(
    [...new Set([...(family?.weights ?? []), style?.weight ?? 400])].sort((a, b) => a - b),
  );
  const n = (v: number, digits = 1) => v.toFixed(digits);
  const rows = $derived(
    line && style
      ? [
          ["size", `${style.size} px`, `${(style.size / 16).toFixed(4).replace(/\.?0+$/, "")} rem`],
          ["tracking", `${n(style.tracking, 2)} px`, `${n(style.tracking / style.size, 3)} em`],
          [
            "ink",
            style.colour,
            style.opacity < 1 ? `white at ${Math.round(100 * style.opacity)} %` : `on ${line.ground}`,
          ],
          ["baseline", `${n(line.baseline)} px`, "from the top"],
          ["x-height", `${n(line.x_height, 2)} px`, `${n(line.x_height / style.size, 3)} em`],
          ["cap height", `${n(line.cap_height, 2)} px`, `${n(line.cap_height / style.size, 3)} em`],
          ["ink box", `${n(line.ink.x)}, ${n(line.ink.y)}`, `${n(line.ink.w)} × ${n(line.ink.h)}`],
          ["as read", `${Math.round(100 * line.confidence)} %`, "sure"],
          ["as drawn", `${n(100 * (1 - line.residual))} %`, "of the ink"],
        ]
      : [],
  );

  function send() {
    if (line && draft.trim() && draft.trim() !== lineText(line))
      onchange({ kind: "add", pin: retype(line, draft.trim()) });
  }
</script>

<aside class="min-h-0 overflow-auto border-l border-drift bg-paper px-5 py-4" aria-label="Ledger">
  {#if line && style}
    <h2 class="font-semibold">Line {selected! + 1} of {reading.lines.length}</h2>
    <form
      class="mt-2"
      onsubmit={(e) => {
        e.preventDefault();
        send();
      }}
    >
      <label class="block">
        <span class="text-ash">It says</span>
        <input
          class="mt-0.5 w-full border border-drift bg-snow px-2 py-1"
          bind:value={draft}
          spellcheck="false"
          data-retype
        />
      </label>
      {#if draft.trim() !== lineText(line)}
        <button class="mt-1 bg-ink px-3 py-1 font-semibold text-paper hover:bg-firn">Retype (Enter)</button>
      {/if}
    </form>

    <figure class="mt-3 overflow-hidden">
      <Crop {build} rect={line.specimen} width={reading.width} most={264} />
      <img
        src={`/api/builds/${build}/lines/${selected}/specimen`}
        alt="Drawn in the fitted type"
        style:width={`${Math.min(264, line.specimen.w)}px`}
      />
      <figcaption class="mt-1 text-sm text-ash">
        above: the picture; below: drawn in the fitted type
      </figcaption>
    </figure>

    <table class="mt-3 w-full">
      <thead class="sr-only"><tr><th>property</th><th>seen</th><th>in other terms</th></tr></thead>
      <tbody>
        {#each rows as [name, seen, other] (name)}
          <tr class="border-b border-drift">
            <th scope="row" class="py-1 text-left font-normal whitespace-nowrap text-ash">{name}</th>
            <td class="py-1 text-right font-semibold whitespace-nowrap">{seen}</td>
            <td class="py-1 pl-2 text-right text-sm whitespace-nowrap text-ash">{other}</td>
          </tr>
        {/each}
      </tbody>
    </table>

    <h3 class="mt-4 font-semibold">{style.name}, {style.lines} line{style.lines === 1 ? "" : "s"}</h3>
    {#if style.substitute}
      <p class="mt-1 border-l-2 border-signal pl-2 text-sm">
        No face of the catalogue draws this; it is the closest, sized to take the same room.
      </p>
    {/if}
    <div class="mt-1 grid grid-cols-[1fr_auto] gap-2">
      <label class="min-w-0">
        <span class="sr-only">Family</span>
        <select
          class="w-full border border-drift bg-snow px-1 py-1"
          value={style.family}
          onchange={(e) => onchange({ kind: "add", pin: setType(line, { family: e.currentTarget.value }) })}
        >
          {#each fonts.data?.families ?? [{ family: style.family }] as f (f.family)}
            <option value={f.family}>{f.family}</option>
          {/each}
        </select>
      </label>
      <label>
        <span class="sr-only">Weight</span>
        <select
          class="border border-drift bg-snow px-1 py-1"
          value={style.weight}
          onchange={(e) => onchange({ kind: "add", pin: setType(line, { weight: +e.currentTarget.value }) })}
        >
          {#each weights as w (w)}<option value={w}>{w}</option>{/each}
        </select>
      </label>
    </div>
    <p class="mt-1 text-sm text-ash">
      fits {style.fit.toFixed(3)}{#each style.runners as { family: name, fit } (name)}<span
          >, <button
            class="underline hover:text-ink"
            title={`Set it in ${name}`}
            onclick={() => onchange({ kind: "add", pin: setType(line, { family: name }) })}>{name}</button
          >
          {fit.toFixed(3)}</span
        >{/each}
    </p>

    <div class="mt-3 flex flex-wrap gap-2">
      <button
        class="border border-drift px-2 py-1 hover:border-ink"
        title="An icon or part of a picture. Key x"
        onclick={() => onchange({ kind: "add", pin: notText(line) })}>Not text</button
      >
      {#if next}
        <button
          class="border border-drift px-2 py-1 hover:border-ink"
          title={`One line with “${lineText(next)}”. Key m`}
          onclick={() => onchange({ kind: "add", pin: merge(line, next) })}>Join with the next</button
        >
      {/if}
    </div>
    {#if line.words.length > 1}
      <p class="mt-2 text-sm leading-7 text-ash">
        split before
        {#each line.words.slice(1) as word, k (k)}
          <button
            class="mr-1 border border-drift px-1 text-ink hover:border-ink"
            onclick={() => onchange({ kind: "add", pin: split(line, k + 1) })}>{word.text}</button
          >
        {/each}
      </p>
    {/if}
  {:else}
    <h2 class="font-semibold">Text read</h2>
    <p class="mt-1 text-ash">
      {reading.lines.length} lines in {reading.styles.length} styles. Choose one on the picture, or walk them with
      the arrow keys.
    </p>
    <ul class="mt-3 text-ash">
      <li>{doubtful} with a doubtful word, dotted under</li>
      <li>{reading.unread.length} places look like text and could not be read</li>
      {#each reading.rotated as turned (turned.text)}<li>runs sideways: “{turned.text}”</li>{/each}
    </ul>
  {/if}
  <div class="mt-6"><PinList {project} {onchange} /></div>
</aside>
