<script lang="ts">
  // Pages: as they are printed, how they are laid out, and many at once.
  import Choice from "../../parts/Choice.svelte";
  import { place } from "../../state/place.svelte";
  import type { StationProps } from "../props";
  import Designer from "./layout/Designer.svelte";
  import Many from "./Many.svelte";
  import Page from "./Page.svelte";

  let props: StationProps = $props();
  const tab = $derived(place.query.face === "layout" || place.query.face === "many" ? place.query.face : "page");
</script>

{#snippet tabs()}
  <Choice
    label="Report"
    options={[
      ["page", "page"],
      ["layout", "layout"],
      ["many", "many"],
    ]}
    value={tab}
    choose={(face) => place.go({ query: { face } }, false)}
  />
{/snippet}

{#if tab === "layout"}<Designer {...props} {tabs} />{:else if tab === "many"}<Many {...props} {tabs} />{:else}<Page
    {...props}
    {tabs}
  />{/if}
