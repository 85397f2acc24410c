<script lang="ts">
  import { toHex, type Point } from "../layout";

  let { build, at, scale }: { build: string; at: Point; scale: number } = $props();

  const CELLS = 15; // picture px across
  const CELL = 12; // screen px of one
  let canvas: HTMLCanvasElement | undefined = $state();
  let source: CanvasRenderingContext2D | undefined = $state();
  let raw = $state("");

  $effect(() => {
    const image = new Image();
    let gone = false;
    image.onload = () => {
      if (gone) return;
      const copy = document.createElement("canvas");
      [copy.width, copy.height] = [image.naturalWidth, image.naturalHeight];
      const context = copy.getContext("2d", { willReadFrequently: true })!;
      context.drawImage(image, 0, 0);
      source = context;
    };
    image.src = `/api/builds/${build}/picture`;
    return () => (gone = true);
  });

  $effect(() => {
    if (!source || !canvas) return;
    const [x, y] = [Math.floor(at.x * scale), Math.floor(at.y * scale)];
    const half = (CELLS - 1) / 2;
    const context = canvas.getContext("2d")!;
    context.imageSmoothingEnabled = false;
    context.fillStyle = "#888";
    context.fillRect(0, 0, canvas.width, canvas.height);
    context.drawImage(source.canvas, x - half, y - half, CELLS, CELLS, 0, 0, CELLS * CELL, CELLS * CELL);
    context.strokeStyle = "#fff";
    context.strokeRect(half * CELL - 1, half * CELL - 1, CELL + 2, CELL + 2);
    context.strokeStyle = "#000";
    context.strokeRect(half * CELL - 2, half * CELL - 2, CELL + 4, CELL + 4);
    const [r, g, b] = source.getImageData(x, y, 1, 1).data;
    raw = toHex(r!, g!, b!);
  });
</script>

<figure class="mt-2">
  <canvas bind:this={canvas} width={CELLS * CELL} height={CELLS * CELL} class="border border-drift"></canvas>
  <figcaption class="mt-1 text-sm text-ash">
    pixel {Math.floor(at.x * scale)}, {Math.floor(at.y * scale)} is <output data-pixel>{raw}</output>
  </figcaption>
</figure>
