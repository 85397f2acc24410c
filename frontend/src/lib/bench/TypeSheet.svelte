<script lang="ts">
  import type { Reading } from "../api/client";
  import { lineText } from "../pins";
  import Crop from "./Crop.svelte";

  let { reading, build, onpick }: { reading: Reading; build: string; onpick: (line: number) => void } =
    $props();

  const usedIn = (style: number) =>
    reading.lines.flatMap((l, i) => (l.style === style || l.words.some((w) => w.style === style) ? [i] : []));
  /** The line that shows a style best: wide enough to tell, narrow enough to be seen whole. */
  const best = (lines: number[], style: number) =>
    [...lines].sort((a, b) => fitness(b, style) - fitness(a, style))[0];
  function fitness(i: number, style: number): number {
    const line = reading.lines[i]!;
    const own = line.words.filter((w) => w.style === style).length / line.words.length;
    return own * 1000 - Math.abs(line.box.w - 320) / 10;
  }
  const styles = $derived(
    reading.styles
      .map((style, i) => ({ style, i, lines: usedIn(i) }))
      .filter((s) => s.lines.length)
      .sort((a, b) => b.style.size - a.style.size || b.lines.length - a.lines.length),
  );
  const scale = $derived(reading.type_scale);
</script>

<div class="min-h-0 flex-1 overflow-auto px-6 py-4">
  <section aria-label="Type scale">
    <h2 class="font-semibold">
      Scale <span class="font-normal text-ash"
        >base {scale.base} px{scale.ratio
          ? `, steps of ${scale.ratio}`
          : ", no single ratio explains it"}</span
      >
    </h2>
    <ol class="mt-2 flex items-end gap-4 overflow-hidden">
      {#each scale.sizes as size (size)}
        <li class="text-center">
          <span class="block leading-none" style:font-size={`${Math.min(size, 64)}px`} aria-hidden="true"
            >Aa</span
          >
          <span class={["text-sm", size === scale.base ? "font-semibold underline" : "text-ash"]}>{size}</span
          >
        </li>
      {/each}
    </ol>
  </section>
  <section class="mt-6" aria-label="Text styles">
    <h2 class="font-semibold">{styles.length} text styles</h2>
    <ol>
      {#each styles as { style, i, lines } (i)}
        {@const line = best(lines, i)!}
        <li class="grid grid-cols-[11rem_minmax(0,1fr)] gap-5 border-b border-drift py-3">
          <div>
            <h3 class="font-semibold">{style.name}</h3>
            <p>
              {style.family}
              {style.weight}{style.italic ? " italic" : ""}
            </p>
            <p class="text-ash">
              {style.size} px{style.tracking ? `, ${style.tracking.toFixed(2)} px apart` : ""}
            </p>
            <p class="text-ash">
              <span
                class="mr-1 inline-block size-2.5 border border-drift align-baseline"
                style:background={style.colour}
              ></span>{style.colour}{style.underline ? ", underlined" : ""}{style.strike
                ? ", struck through"
                : ""}
            </p>
            <p class={["text-sm", style.substitute ? "text-signal" : "text-ash"]}>
              {style.substitute ? "closest substitute, " : ""}fit {style.fit.toFixed(3)}{style.runners[0]
                ? `; ${style.runners[0].family} ${style.runners[0].fit.toFixed(3)}`
                : ""}
            </p>
          </div>
          <div class="min-w-0 overflow-hidden">
            <button class="block text-left" onclick={() => onpick(line)} title="Show it on the picture">
              <Crop {build} rect={reading.lines[line]!.specimen} width={reading.width} most={620} />
              <img
                src={`/api/builds/${build}/lines/${line}/specimen`}
                alt={`${lineText(reading.lines[line]!)}, drawn in ${style.family}`}
                style:width={`${Math.min(620, reading.lines[line]!.specimen.w)}px`}
                loading="lazy"
              />
            </button>
            <details class="mt-1 text-sm text-ash">
              <summary>{lines.length} line{lines.length === 1 ? "" : "s"}</summary>
              <ul class="mt-1 columns-2">
                {#each lines.slice(0, 60) as at (at)}
                  <li class="truncate">
                    <button class="hover:text-ink hover:underline" onclick={() => onpick(at)}
                      >{lineText(reading.lines[at]!)}</button
                    >
                  </li>
                {/each}
              </ul>
            </details>
          </div>
        </li>
      {/each}
    </ol>
  </section>
</div>
