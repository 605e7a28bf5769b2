<script lang="ts">
  // Looking at signals: one injection with its conditions, several compared, or the whole batch from above.
  import { place } from "../../state/place.svelte";
  import type { StationProps } from "../props";
  import Compare from "./Compare.svelte";
  import FromAbove from "./FromAbove.svelte";
  import OneInjection from "./OneInjection.svelte";

  let { batch, result, index, stale, channel }: StationProps = $props();
  const View = $derived(place.query.mode === "one" ? OneInjection : place.query.mode === "above" ? FromAbove : Compare);
</script>

<View {batch} {result} {index} {stale} {channel} />
