<script lang="ts">
  // The pages on the screen are the pages of the PDF, drawn once by the server.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Snippet } from "svelte";
  import { answer, api } from "../../api/client";
  import Choice from "../../parts/Choice.svelte";
  import Foot from "../../parts/Foot.svelte";
  import Side from "../../parts/Side.svelte";
  import Notices from "../../parts/Notices.svelte";
  import { ask, queries } from "../../state/ask";
  import { desk, replicate } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import type { StationProps } from "../props";

  let { batch, result, index, tabs }: StationProps & { tabs: Snippet } = $props();
  const views = createQuery(() => ask.views(batch.id));
  const view = $derived(views.data?.find((v) => v.id === place.query.view) ?? views.data?.[0]);
  const what = $derived(place.query.mode === "injection" ? "injection" : place.query.mode === "view" && view ? "view" : "batch");
  const layout = $derived(what === "view" ? `view:${view!.id}` : what);
  const injection = $derived(layout === "injection" ? (batch.injections[index]?.id ?? "") : "");
  const query = createQuery(() => ({
    ...ask.pages(batch.id, batch.revision, layout, injection),
    enabled: batch.injections.length > 0 && (place.query.mode !== "view" || !views.isPending),
  }));
  const reports = createQuery(() => ask.reports(batch.id));
  const pages = $derived(query.data?.pages ?? []);
  const pictures = $derived(pages.map((svg) => svg));
  let size = $state<"page" | "width">("page");
  let at = $state(0);
  let desktop = $state<HTMLElement>();
  const search = $derived(new URLSearchParams({ layout, injection }).toString());

  function turn(step: number) {
    at = Math.max(0, Math.min(pages.length - 1, at + step));
    desktop?.querySelectorAll(".sheet")[at]?.scrollIntoView({ behavior: "instant", block: "start" });
  }
  async function keep() {
    try {
      await answer(
        api.POST("/api/batches/{batch}/reports", {
          params: { path: { batch: batch.id } },
          body: { layout, injection_id: injection },
        }),
      );
      desk.done = "report kept";
      await queries.invalidateQueries({ queryKey: ["reports", batch.id] });
      await queries.invalidateQueries({ queryKey: ["record", batch.id] });
      await queries.invalidateQueries({ queryKey: ["batch", batch.id] }); // which is reported from here on
    } catch (error) {
      desk.trouble = (error as Error).message;
    }
  }
  const when = (t: string) => new Date(t).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
  $effect(() => keys({ PageDown: () => turn(1), PageUp: () => turn(-1) }));
</script>

<div class="stage">
  <main class="main">
    <div class="head">
      <h1>Report</h1>
      <span class="note"
        >{what === "view"
          ? `of the view ${view!.name}`
          : what === "batch"
            ? `of the batch ${batch.name}`
            : `of ${batch.injections[index]?.name ?? ""} ${replicate(batch, index)}`}{pages.length
          ? ` · page ${at + 1} of ${pages.length}, A4, as printed`
          : ""}</span
      >
      <span class="tools"
        >{@render tabs()}<Choice
          label="Size"
          options={[
            ["page", "whole page"],
            ["width", "page width"],
          ]}
          value={size}
          choose={(s) => (size = s)}
        /></span
      >
    </div>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex (it is scrolled by the keyboard) -->
    <div class="desktop {size}" bind:this={desktop} role="region" aria-label="Pages" tabindex="0">
      {#if batch.injections.length === 0}<div class="empty">There is nothing to report yet.</div>
      {:else if query.isError}<div class="empty">
          {query.error.message} <button class="btn" onclick={() => query.refetch()}>Try again</button>
        </div>
      {:else if pages.length === 0}<div class="empty">Laying out the pages …</div>{/if}
      {#each pictures as svg, i (i)}
        <!-- eslint-disable-next-line svelte/no-at-html-tags -- drawn by our own server, which escapes every text in it -->
        <div class="sheet" role="document" aria-label="Page {i + 1}">{@html svg}</div>
      {/each}
    </div>
  </main>
  <Side>
    <section aria-label="What is reported">
      <h2>What</h2>
      <Choice
        label="What is reported"
        options={[
          ["batch", "the batch"],
          ["injection", "one injection"],
          ...(views.data?.length ? ([["view", "a view"]] as [string, string][]) : []),
        ]}
        value={what}
        choose={(m) => place.go({ query: { mode: m } }, false)}
      />
      {#if what === "view"}
        <select
          class="field"
          aria-label="View"
          title="The view of the study that is drawn"
          value={view!.id}
          onchange={(e) => place.go({ query: { view: e.currentTarget.value } }, false)}
        >
          {#each views.data ?? [] as v (v.id)}<option value={v.id}>{v.name}</option>{/each}
        </select>
      {/if}
      {#if layout === "injection"}<p class="note">J and K, or the scroll, choose the injection.</p>{/if}
    </section>
    {#if batch.injections.length > 0}
      <section aria-label="Download">
        <h2>Download</h2>
        <div class="acts">
          <a class="btn pri" title="These pages as PDF" href="/api/batches/{batch.id}/report.pdf?{search}" download="report.pdf">PDF</a>
          <a
            class="btn"
            href="/api/batches/{batch.id}/results.csv"
            title="Every reading as delimited text, in full precision"
            download="results.csv">CSV</a
          >
          <a
            class="btn"
            href="/api/batches/{batch.id}/results.xlsx"
            title="A workbook with formulas that can be followed"
            download="results.xlsx">XLSX</a
          >
        </div>
        <p class="note">The PDF has these very pages. CSV and XLSX hold every reading of the batch in full precision.</p>
      </section>
    {/if}
    <section aria-label="Kept reports">
      <h2>
        Kept <span class="r"
          ><button disabled={batch.injections.length === 0} class="lnk" onclick={keep} title="Keeps these pages as they are now"
            >Keep this one</button
          ></span
        >
      </h2>
      {#each reports.data ?? [] as r (r.id)}
        <p class="kept">
          <a class="lnk" href="/api/batches/{batch.id}/reports/{r.id}" target="_blank"
            >{r.layout === "batch"
              ? "batch"
              : r.layout.startsWith("view:")
                ? (views.data?.find((v) => `view:${v.id}` === r.layout)?.name ?? "a view")
                : (batch.injections.find((i) => i.id === r.injection_id)?.name ?? "injection")}</a
          ><span class="mut">{when(r.made_at)}, {r.made_by}</span>
        </p>
      {:else}<p class="note">A kept report stays as it is, whatever changes later. From the first one on every change asks why.</p>{/each}
    </section>
    <Notices {batch} {result} />
  </Side>
  <Foot
    hints={[
      ["Page down", "next page"],
      ["J|K", "injection"],
      ["U", "fold the scroll"],
    ]}>The page is drawn by the same code that prints it.</Foot
  >
</div>

<style>
  .desktop {
    flex: 1;
    min-height: 0;
    overflow: auto;
    background: var(--paper-3);
    display: flex;
    flex-direction: column;
    align-items: center;
    gap: 16px;
    padding: 14px;
  }
  .sheet {
    background: #fffefb;
    aspect-ratio: 210 / 297;
    flex: none;
  }
  .page .sheet {
    height: calc(100% - 4px);
  }
  .width .sheet {
    width: 100%;
  }
  .sheet :global(svg) {
    width: 100%;
    height: 100%;
  }
  .acts {
    display: flex;
    gap: 10px;
    margin: 6px 0;
  }
  .kept {
    display: flex;
    justify-content: space-between;
    font-size: 12.5px;
    line-height: 22px;
  }
</style>
