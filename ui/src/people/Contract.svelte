<script lang="ts">
  // What programs are written against: every request and answer, from the contract that the server itself is tested by, to be tried here.
  import "rapidoc/dist/rapidoc-min.js";
  import PageBar from "../parts/PageBar.svelte";
  import { keys } from "../state/keys.svelte";
  import { light } from "../state/light.svelte";
  import { place } from "../state/place.svelte";

  $effect(() => keys({ "alt+0": () => place.home() }));
  const colour = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
</script>

<div class="page">
  <PageBar>
    <span class="note"
      >the contract for programs; <a class="lnk" href="/api/openapi.json" title="The contract as OpenAPI">openapi.json</a></span
    >
  </PageBar>
  <rapi-doc
    spec-url="/api/openapi.json"
    render-style="view"
    theme={light.night ? "dark" : "light"}
    bg-color={colour("--paper")}
    text-color={colour("--ink")}
    primary-color={colour("--ai")}
    regular-font="IBM Plex Sans"
    load-fonts="false"
    show-header="false"
    allow-authentication="false"
    allow-server-selection="false"
    schema-style="table"
    sort-endpoints-by="path"
  ></rapi-doc>
</div>

<style>
  .page {
    display: grid;
    grid-template-rows: 41px minmax(0, 1fr);
    height: 100%;
  }
  rapi-doc {
    height: 100%;
    width: 100%;
    overflow: auto;
  }
</style>
