<script lang="ts">
  import { count } from "../../look/number";
  import { createQuery } from "@tanstack/svelte-query";
  import Foot from "../../parts/Foot.svelte";
  import Side from "../../parts/Side.svelte";
  import Notices from "../../parts/Notices.svelte";
  import { place } from "../../state/place.svelte";
  import { ask } from "../../state/ask";
  import { desk } from "../../state/desk.svelte";
  import type { StationProps } from "../props";
  import { intake } from "./intake.svelte";
  import Choice from "../../parts/Choice.svelte";
  import WayAsk from "./way/WayAsk.svelte";
  import WholeWay from "./way/WholeWay.svelte";
  import { small, way } from "./way/way.svelte";
  import Becomes from "./look/Becomes.svelte";
  import Look from "./look/Look.svelte";
  import { look } from "./look/look.svelte";
  import Intake from "./Intake.svelte";
  import RecordRow from "./RecordRow.svelte";
  import LevelUnit from "./LevelUnit.svelte";
  import Equipment from "./Equipment.svelte";
  import Signals from "./Signals.svelte";
  import Files from "./Files.svelte";
  import WaitingList from "./WaitingList.svelte";
  import OwnColumns from "./OwnColumns.svelte";
  import RunList from "./RunList.svelte";
  import TakingIn from "./TakingIn.svelte";
  import TakingInCounts from "./TakingInCounts.svelte";

  let { batch, result, index }: StationProps = $props();
  let over = $state(false);
  let all = $state(false); // seldom used columns of the run list
  let list = $state<RunList>();
  const record = createQuery(() => ask.record(batch.id, batch.revision));
  // A small new batch is seen as a whole at first; either face is one word away.
  const face = $derived(place.query.face ?? (small(batch) ? "way" : "list"));
  const fits = $derived(
    batch.injections.length > 0 &&
      batch.injections.length <= 60 &&
      batch.version.method.compounds.length <= 1 &&
      !batch.injections.some((i) => i.typed),
  );
  const wholeQuery = createQuery(() => ask.wholeWay(batch.id, batch.revision, way.ask(batch), face === "way" && fits && !intake.running));
  const whole = $derived(
    face === "way" && fits && wholeQuery.data?.rows.map((r) => r.injection_id).join() === batch.injections.map((i) => i.id).join()
      ? wholeQuery.data
      : undefined,
  );
  /** Files have come, and are looked at before they are taken in. */
  const looking = $derived(look.batch === batch.id && look.files.length + look.coming.length > 0);
  $effect(() => void look.open(batch.id));
  /** Many files are shown while they come in; a few are in before anyone has looked. */
  const taking = $derived(!looking && intake.running && intake.files.length > 12);
  const chosen = $derived(batch.injections[index]);
  const acquired = $derived(batch.injections.map((i) => i.header.acquired_at).filter((t): t is string => !!t));
  const day = (t: string) =>
    new Date(t).toLocaleString("en-GB", {
      day: "numeric",
      month: "long",
      hour: "2-digit",
      minute: "2-digit",
      timeZone: "UTC",
    });
  let shown = $state(12);
  const facts = $derived(
    chosen
      ? ([
          ["File", chosen.file_name],
          ["Acquired", chosen.header.acquired_at ? day(chosen.header.acquired_at) : "not in file"],
          ["Name in file", chosen.header.sample_name || "not in file"],
          ["Signal", `${chosen.signal}${chosen.unit ? `, ${chosen.unit}` : ""}`],
          ["Operator", chosen.header.operator || "not in file"],
          ["Method in file", chosen.header.method_name || "not in file"],
          ...(chosen.header.doubts ?? []).map((d) => ["Look", d] as const),
        ] as const)
      : [],
  );
</script>

<div
  class="stage"
  role="presentation"
  ondragover={(e) => {
    e.preventDefault();
    over = true;
  }}
  ondragleave={(e) => {
    if (!(e.currentTarget as Element).contains(e.relatedTarget as Node)) over = false;
  }}
  ondrop={(e) => {
    e.preventDefault();
    over = false;
    void look.add(batch.id, e.dataTransfer?.files ?? []);
  }}
>
  <main class="main">
    {#if looking}
      <Look {batch} />
    {:else if taking}
      <TakingIn batch={batch.id} />
    {:else}
      <div class="head">
        <h1>{face === "way" ? batch.name : "Run list"}</h1>
        <span class="note">
          {count(batch.injections.length, "injection")}{acquired.length > 0 ? `, ${day(acquired[0]!)} to ${day(acquired.at(-1)!)}` : ""} · method
          {batch.version.name}, version {batch.version.number}
        </span>
        <span class="tools">
          {#if face !== "way"}
            <label class="chk" title="Shows the seldom used columns too"><input type="checkbox" bind:checked={all} />all columns</label>
            <button class="lnk" onclick={() => list?.fillDown()} title="Fills the selected cells with the topmost of them (Alt F)"
              >Fill down</button
            > <kbd>Alt F</kbd>
            <button class="lnk" onclick={() => list?.fillSeries()} title="Goes on counting from the topmost selected cells (Alt S)"
              >Fill series</button
            > <kbd>Alt S</kbd>
          {/if}
          {#if fits}
            <Choice
              label="Face of the batch"
              options={[
                ["list", "run list"],
                ["way", "the whole way"],
              ]}
              value={face}
              choose={(v) => place.go({ query: { face: v } }, false)}
            />
          {/if}
        </span>
      </div>
      {#if batch.injections.length === 0}
        <div class="empty">No injections yet. Drop files here.</div>
      {:else if face === "way" && fits}
        {#if wholeQuery.isError}
          <div class="empty">
            {wholeQuery.error.message} <button class="btn" onclick={() => wholeQuery.refetch()}>Try again</button>
          </div>
        {:else if whole}<WholeWay {batch} {whole} />
        {:else}<div class="empty">{intake.running ? "Files are coming in …" : "Looking at the files …"}</div>{/if}
      {:else}
        <LevelUnit {batch} />
        <RunList bind:this={list} {batch} {result} {index} {all} />
      {/if}
    {/if}
  </main>
  <Side>
    {#if looking}<Becomes {batch} />{/if}
    {#if taking}<TakingInCounts {batch} />{/if}
    {#if whole && !looking && !taking}<WayAsk {batch} {whole} />{/if}
    {#if !taking}<Intake {batch} {over} />{/if}
    {#if !looking && !taking}<WaitingList {batch} />{/if}
    {#if !looking && !taking}
      <Signals {batch} />
      {#if face !== "way"}<OwnColumns {batch} />{/if}
      <Notices {batch} {result} most={6} />
      {#if chosen}
        <section aria-label="Injection">
          <h2>
            Injection {index + 1}
            <span class="r"
              ><a
                title="The file with every byte as it was brought in"
                class="lnk"
                href="/api/batches/{batch.id}/injections/{chosen.id}/raw"
                download>file as it came</a
              ></span
            >
          </h2>
          <dl>
            {#each facts as [k, v] (k + v)}<dt>{k}</dt>
              <dd class:mut={v === "not in file"} class:doubt={k === "Look"} title={v}>{v}</dd>{/each}
          </dl>
          <Files {batch} injection={chosen} />
          <button
            class="lnk out"
            onclick={() => desk.remove(chosen.id)}
            title="Takes the injection out of the batch; its file is kept, and undo brings it back">Remove from the batch</button
          >
        </section>
      {/if}
      {#if chosen}<Equipment {batch} injection={chosen} />{/if}
      <section aria-label="Record">
        <h2>Record <span class="r">newest first</span></h2>
        {#each (record.data ?? []).slice(0, shown) as c (c.seq)}<RecordRow row={c} />{/each}
        {#if (record.data?.length ?? 0) > shown}<button class="lnk out" onclick={() => (shown += 40)} title="Shows older rows of the record"
            >more</button
          >{/if}
      </section>
    {/if}
  </Side>
  <Foot
    hints={looking
      ? [
          ["J|K", "file"],
          ["X", "leave out, take in"],
          ["Enter", "take in"],
          ["Esc", "put all back"],
        ]
      : taking
        ? [
            ["J|K", "file"],
            ["Enter", "open it"],
            ["[|]", "what was refused, or is to be known"],
            ["Esc", "stop after these"],
          ]
        : face === "way"
          ? [
              ["[|]", "proposal"],
              ["Enter", "keep it"],
              ["X", "not this one"],
              ["Shift Enter", "keep all that stand"],
              ["B", "hold: as it came"],
              ["Ctrl Z", "undo"],
            ]
          : [
              ["arrows", "cell"],
              ["Enter", "edit, next row"],
              ["Shift arrows", "select rows"],
              ["Ctrl V", "paste columns from a spreadsheet"],
              ["Alt arrows", "move in run order"],
              ["Ctrl Z", "undo"],
            ]}>{desk.done ? `Kept: ${desk.done}` : "Every change is written to the record"}</Foot
  >
</div>

<style>
  dl {
    display: grid;
    grid-template-columns: 92px 1fr;
    font-size: 12.5px;
    line-height: 20px;
  }
  dt {
    color: var(--ink-3);
  }
  dd {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  dd.doubt {
    white-space: normal;
    color: var(--ochre-text);
    line-height: 1.35;
  }
  .out {
    font-size: 12px;
    margin-top: 4px;
  }
  .tools kbd {
    margin-left: -8px;
  }
</style>
