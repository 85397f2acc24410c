<script lang="ts">
  import type { Box } from "../api/client";

  let { build, rect, width, most }: { build: string; rect: Box; width: number; most: number } = $props();
  const scale = $derived(Math.min(1, most / rect.w));
</script>

<!-- a part of the picture, at its own size or as large as fits -->
<div
  role="img"
  aria-label="As in the picture"
  style:width={`${rect.w * scale}px`}
  style:height={`${rect.h * scale}px`}
  style:background-image={`url(/api/builds/${build}/picture)`}
  style:background-size={`${width * scale}px auto`}
  style:background-position={`${-rect.x * scale}px ${-rect.y * scale}px`}
></div>
