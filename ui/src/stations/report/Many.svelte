<script lang="ts">
  // Many reports at once: of what, as what, where to; what is held back is known before they are begun, and each says what became of it.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Snippet } from "svelte";
  import { answer, api, type ReportFile, type ReportSet, type SetAsked } from "../../api/client";
  import Choice from "../../parts/Choice.svelte";
  import Foot from "../../parts/Foot.svelte";
  import Mark from "../../parts/Mark.svelte";
  import Side from "../../parts/Side.svelte";
  import { ask, queries } from "../../state/ask";
  import { desk } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { who } from "../../state/who.svelte";
  import type { StationProps } from "../props";
  import { eachWords } from "./layout/blocks";
  import ManySide from "./ManySide.svelte";
  import { size, stateWords as words, when } from "./sets";
  import Ridges from "./Ridges.svelte";

  let { batch, tabs }: StationProps & { tabs: Snippet } = $props();
  const list = createQuery(() => ask.layouts(batch.id));
  const targets = createQuery(() => ask.targets());
  const sets = createQuery(() => ask.sets(batch.id));
  const layout = $derived(list.data?.find((l) => l.id === place.query.layout) ?? list.data?.find((l) => l.layout.each !== "batch"));
  let each = $state("");
  let all = $state(false);
  let formats = $state<string[]>(["pdf"]);
  let hold = $state<string[]>(["missing"]);
  let to = $state<string[]>([]);
  let names = $state("");
  let joined = $state(false);
  /** Subjects that are made although they would be held back. */
  let despite = $state<string[]>([]);
  let open = $state(""); // the set that is looked at; "" is what would be made
  let at = $state(0);
  const asked = $derived<SetAsked>({ layout: layout?.id ?? "", each, all, formats, names, hold, to, joined, despite });
  const plan = createQuery(() => ask.plan(batch.id, batch.revision, asked));
  const set = $derived<ReportSet | undefined>(open ? sets.data?.find((s) => s.id === open) : plan.isError ? undefined : plan.data);
  /** One line for each subject; its formats beside each other. */
  const lines = $derived.by(() => {
    const found = new Map<string, ReportFile[]>();
    for (const f of set?.files ?? []) {
      const key = f.joined ? "all" : f.injection_id || f.sample || "batch";
      found.set(key, [...(found.get(key) ?? []), f]);
    }
    return [...found.values()];
  });
  const files = $derived(lines.flat());
  const current = $derived(files[Math.min(at, files.length - 1)]);
  const number = (state: string) => (set?.files ?? []).filter((f) => f.state === state).length;
  const waits = $derived(number("waits"));
  const working = $derived(set?.state === "making" && waits > 0);
  $effect(() => {
    if (!working && !files.some((f) => f.sent.some((s) => s.state === "waits"))) return;
    const again = setInterval(() => void queries.invalidateQueries({ queryKey: ["sets", batch.id] }), working ? 400 : 3000);
    return () => clearInterval(again);
  });

  async function act(what: () => Promise<ReportSet>) {
    try {
      await who.sure();
      const done = await what();
      open = done.id;
      await queries.invalidateQueries({ queryKey: ["sets", batch.id] });
      await queries.invalidateQueries({ queryKey: ["record", batch.id] });
    } catch (error) {
      desk.trouble = (error as Error).message;
    }
  }
  const path = $derived({ batch: batch.id, set: open });
  const begin = () => act(() => answer(api.POST("/api/batches/{batch}/sets", { params: { path: { batch: batch.id } }, body: asked })));
  const halt = (forGood: boolean) =>
    act(() => answer(api.POST("/api/batches/{batch}/sets/{set}/halt", { params: { path }, body: { for_good: forGood } })));
  const goOn = () => act(() => answer(api.POST("/api/batches/{batch}/sets/{set}/go-on", { params: { path } })));
  let again = $state<Record<string, { same: boolean; says: string }>>({});
  async function makeAgain(id: string, position: number) {
    const key = `${id} ${position}`;
    try {
      again[key] = await answer(
        api.POST("/api/batches/{batch}/sets/{set}/files/{position}/again", {
          params: { path: { batch: batch.id, set: id, position: String(position) } },
        }),
      );
    } catch (error) {
      again[key] = { same: false, says: (error as Error).message };
    }
  }
  const toggle = (from: string[], one: string) => (from.includes(one) ? from.filter((o) => o !== one) : [...from, one]);
  const formatWords: [string, string, string][] = [
    ["pdf", "PDF", "as printed"],
    ["html", "HTML", "one file, the same drawing"],
    ["csv", "CSV", "every reading, full precision"],
    ["xlsx", "XLSX", "formulas live"],
    ["json", "JSON", "for other programs"],
  ];
  const wherefrom = (f: ReportFile) =>
    f.sent
      .map((s) =>
        s.state === "sent" ? (s.target === "folder" ? "in the folder" : "taken up") : s.tries ? "kept, not reached" : "to be sent",
      )
      .join(", ");
  const total = $derived((set?.files ?? []).reduce((n, f) => n + f.size, 0));
  const nameOf = (f: ReportFile) => {
    if (f.joined) return "All in one PDF";
    const k = batch.injections.findIndex((i) => i.id === f.injection_id);
    return f.sample || (k >= 0 ? `${k + 1} ${batch.injections[k]!.name}` : batch.name);
  };
  /** Makes it although it would be held back: before the start by saying so, afterwards by making it. */
  function allTheSame(f: ReportFile) {
    if (open)
      void act(() =>
        answer(
          api.POST("/api/batches/{batch}/sets/{set}/files/{position}/release", {
            params: { path: { ...path, position: String(f.position) } },
          }),
        ),
      );
    else despite = [...despite, f.injection_id || f.sample || ""];
  }
  /** Goes to where what is missing can be typed, or what is open be looked at. */
  const lookAt = (f: ReportFile) =>
    place.go({
      station: "batch",
      query: { i: f.injection_id ?? f.injections[0] ?? batch.injections.find((i) => i.name === f.sample)?.id ?? "" },
    });
  const address = (f: ReportFile) => `/api/batches/${batch.id}/sets/${open}/files/${f.position}`;
  const step = (by: number) => (at = Math.max(0, Math.min(files.length - 1, at + by)));
  $effect(() =>
    keys({
      "]": () => step(1),
      "[": () => step(-1),
      Escape: () => (working ? void halt(true) : (open = "")),
      Enter: () => {
        if (!open && waits > 0) void begin();
        else if (open && current?.hash) window.open(`${address(current)}?open=1`, "_blank");
      },
    }),
  );
</script>

<div class="stage">
  <main class="main">
    <div class="head">
      <h1>{open ? `${set?.files.length ?? 0} reports` : waits === 1 ? "1 report" : `${waits} reports`}</h1>
      <span class="note"
        >{layout && !open
          ? `by ${layout.layout.name}, version ${layout.version}`
          : set
            ? `by ${set.layout_name}, version ${set.layout_version}`
            : ""}{open && set?.made_at ? ` · begun ${when(set.made_at)} by ${set.made_by}` : ""}</span
      >
      <span class="tools">{@render tabs()}</span>
    </div>
    <div class="ask">
      <section aria-label="Of">
        <h2>Of</h2>
        <label class="row"
          ><span>layout</span><select
            class="field"
            aria-label="Layout"
            title="By which they are made"
            value={layout?.id}
            disabled={!!open}
            onchange={(e) => place.go({ query: { layout: e.currentTarget.value } }, false)}
          >
            {#each list.data ?? [] as l (l.id)}<option value={l.id}>{l.layout.name}</option>{/each}
          </select></label
        >
        <div class="row">
          <span>one for each</span><Choice
            label="One for each"
            options={eachWords}
            value={each || (layout?.layout.each ?? "sample")}
            choose={(e) => !open && (each = e)}
          />
        </div>
        {#if (each || layout?.layout.each) === "injection"}<div class="row">
            <span>which</span><Choice
              label="Which injections"
              options={[
                ["samples", "samples"],
                ["all", "all"],
              ]}
              value={all ? "all" : "samples"}
              choose={(v) => !open && (all = v === "all")}
            />
          </div>{/if}
        <div class="row">
          <span>hold back if</span><span class="checks">
            {#each [["missing", "a value is missing"], ["notices", "a notice is open"], ["range", "above the range"]] as [why, says] (why)}<label
                class="chk"
                ><input
                  type="checkbox"
                  title="Held back if {says}"
                  disabled={!!open}
                  checked={hold.includes(why!)}
                  onchange={() => (hold = toggle(hold, why!))}
                />{says}</label
              >{/each}</span
          >
        </div>
      </section>
      <section aria-label="As">
        <h2>As <span class="r">{total ? size(total) : ""}</span></h2>
        {#each formatWords as [f, word, says] (f)}
          <label class="chk line"
            ><input
              type="checkbox"
              title="{word}: {says}"
              disabled={!!open}
              checked={formats.includes(f)}
              onchange={() => (formats = toggle(formats, f))}
            />{word}<span class="mut">{says}</span></label
          >
          {#if f === "pdf"}<label class="chk line"
              ><input
                type="checkbox"
                title="One PDF of all that are made, in run order, after them"
                disabled={!!open || !formats.includes("pdf") || (each || layout?.layout.each) === "batch"}
                bind:checked={joined}
              />one PDF<span class="mut">all of them, in run order</span></label
            >{/if}
        {/each}
        <label class="row"
          ><span>name</span><input
            class="field"
            title="Names of the files, with values in braces"
            placeholder={"{subject}"}
            disabled={!!open}
            value={names}
            onchange={(e) => (names = e.currentTarget.value)}
          /></label
        >
      </section>
      <section aria-label="To">
        <h2>To</h2>
        <label class="chk line"
          ><input type="checkbox" checked disabled title="Every report is kept here" />kept here<span class="mut">for good</span></label
        >
        {#each [["folder", "drop folder", targets.data?.folder], ["receiver", "receiver", targets.data?.receiver]] as [target, word, where] (target)}
          <label class="chk line"
            ><input
              type="checkbox"
              title={where ? `${word}: ${where}` : `No ${word} is named when Yugen is started`}
              disabled={!!open || !where}
              checked={to.includes(target!)}
              onchange={() => (to = toggle(to, target!))}
            />{word}<span class="mut cut">{where || "none is named"}</span></label
          >
        {/each}
        <p class="note">A file appears whole or not at all; the list of checksums comes last.</p>
      </section>
    </div>
    <div class="sub">
      {#if plan.isError && !open}<h2 class="att">{plan.error.message}</h2>
      {:else}<h2>
          {open ? `${number("made")} of ${set?.files.length ?? 0} made` : `${waits} would be made`}
          {#if number("held")}<span class="att">{number("held")} held back</span>{/if}
          {#if number("failed")}<span class="att">{number("failed")} not made</span>{/if}
          {#if working}<span class="mut">{waits} to come</span>{/if}
        </h2>{/if}
      <span class="tools">
        {#if !open}<button
            class="btn pri"
            disabled={waits === 0 || plan.isError || plan.isFetching}
            title="Makes them"
            onclick={() => void begin()}>Make {waits} <kbd>Enter</kbd></button
          >
        {:else}
          {#if working}<button class="lnk" title="What is made stays; the rest waits" onclick={() => void halt(false)}>Pause</button>
            <button class="lnk" title="What is made stays (Esc)" onclick={() => void halt(true)}>Stop</button>
          {:else if waits || number("failed") || number("stopped")}<button
              class="lnk"
              title="Makes what is left"
              onclick={() => void goOn()}>{number("failed") ? "Try again" : "Go on"}</button
            >{/if}
          {#if number("made")}<a
              class="lnk"
              title="All in one archive"
              href="/api/batches/{batch.id}/sets/{open}/reports.zip"
              download="reports.zip">all in one archive</a
            >{/if}
          <button class="lnk" title="Back to what would be made" onclick={() => (open = "")}>make others</button>
        {/if}
      </span>
    </div>
    <Ridges {batch} {lines} {working} made={number("made")} files={set?.files.length ?? 0} />
    <!-- svelte-ignore a11y_no_noninteractive_tabindex (it is scrolled by the keyboard) -->
    <div class="roll" role="region" aria-label="Reports" tabindex="0">
      <table>
        <tbody>
          {#each lines as line (line[0]!.position)}
            <tr>
              <td class="l"><b>{nameOf(line[0]!)}</b></td>
              {#each line as f (f.position)}
                <td class="cell-{f.state}" class:sel={f.position === current?.position}>
                  <button title="{f.name}.{f.format}" onclick={() => (at = files.indexOf(f))}>
                    {#if f.state === "held" || f.state === "failed"}<Mark name="look" />{:else if f.state === "made"}<span class="tick"
                        >✓</span
                      >{/if}
                    {f.format.toUpperCase()}
                    {words[f.state]}{f.says ? `: ${f.says}` : ""}
                    <span class="mut">{f.size ? size(f.size) : ""} {wherefrom(f)}</span>
                  </button>
                  {#if f.state === "held" && f === line[0] && !f.joined}<span class="out"
                      ><button class="lnk" title="Goes to the run list, where what is missing is typed" onclick={() => lookAt(f)}
                        >look at it</button
                      >
                      <button
                        class="lnk"
                        title="Makes it, with an en dash where a value is missing; the record says so"
                        onclick={() => allTheSame(f)}>make it all the same</button
                      ></span
                    >{/if}
                </td>
              {/each}
            </tr>
          {:else}<tr><td class="l mut">{plan.isPending && asked.layout ? "Looking what would be made …" : "Nothing to report."}</td></tr
            >{/each}
        </tbody>
      </table>
      <h2 class="before">Made before <span class="note">kept with what they were made from</span></h2>
      {#each sets.data ?? [] as s (s.id)}
        {@const first = s.files.find((f) => f.hash)}
        <p class="set" class:sel={s.id === open}>
          <button class="lnk" title="Shows them" onclick={() => ((open = s.id), (at = 0))}>{s.made_at ? when(s.made_at) : ""}</button>
          <span>{s.made_by}</span>
          <span>{s.files.filter((f) => f.hash).length} of {s.files.length} files</span>
          <span>{s.layout_name} {s.layout_version}</span>
          <span class="says">
            {#if first && again[`${s.id} ${first.position}`]}<span class={again[`${s.id} ${first.position}`]!.same ? "good" : "cau"}
                >{again[`${s.id} ${first.position}`]!.says}</span
              >
            {:else if first}<button
                class="lnk"
                title="Makes the first again and compares the bytes"
                onclick={() => void makeAgain(s.id, first.position)}>make again</button
              >{/if}
          </span>
        </p>
      {:else}<p class="note">None yet.</p>{/each}
    </div>
  </main>
  <Side>
    {#if current && set}
      <ManySide {batch} {set} file={current} name={nameOf(current)} {makeAgain} {again} />
    {/if}
  </Side>
  <Foot
    hints={[
      ["[|]", "report to report"],
      ["O", "its whole page"],
      ["Enter", open ? "open" : "make them"],
      ["Esc", working ? "stop; what is made stays" : "back"],
    ]}>Closing this page does not stop it.</Foot
  >
</div>

<style>
  .ask {
    display: grid;
    grid-template-columns: 1fr 1fr 1fr;
    gap: 26px;
    padding: 4px 16px 8px;
    border-bottom: 1px solid var(--mist-1);
  }
  .row {
    display: grid;
    grid-template-columns: 84px 1fr;
    gap: 8px;
    align-items: baseline;
    font-size: 12.5px;
    margin: 4px 0;
  }
  .row > span:first-child {
    color: var(--ink-2);
  }
  .checks {
    display: grid;
  }
  .chk {
    display: flex;
    font-size: 12.5px;
    line-height: 21px;
  }
  .line .mut {
    margin-left: auto;
    padding-left: 12px;
    text-align: right;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .sub {
    display: flex;
    align-items: baseline;
    padding: 8px 16px 2px;
  }
  .sub h2 span {
    font-size: 12.5px;
    font-family: var(--f-ui);
    margin-left: 10px;
  }
  .sub .tools {
    margin-left: auto;
    display: flex;
    gap: 16px;
    align-items: baseline;
  }
  .roll {
    flex: 1;
    min-height: 0;
    overflow: auto;
    padding: 0 16px 12px;
  }
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 12.5px;
  }
  td {
    text-align: left;
    border-bottom: 1px solid var(--mist-1);
    padding: 1px 12px 1px 6px;
    height: 22px;
  }
  td b {
    font-weight: 400;
    font-family: var(--f-read);
    font-size: 14px;
  }
  td > button {
    text-align: left;
    width: 100%;
  }
  .ask h2 {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
  }
  .ask h2 .r {
    font: 12.5px var(--f-ui);
    color: var(--ink-3);
  }
  td {
    white-space: nowrap;
  }
  td > button {
    max-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  td:has(.out) > button {
    width: auto;
  }
  .out {
    display: inline-flex;
    gap: 12px;
    margin-left: 12px;
  }
  td.sel {
    outline: 2px solid var(--kaki);
    outline-offset: -2px;
  }
  .cell-held,
  .cell-failed {
    color: var(--kaki);
  }
  .cell-waits {
    color: var(--ink-3);
  }
  .tick,
  .good {
    color: var(--moss);
  }
  .before {
    margin-top: 18px;
  }
  .set {
    display: grid;
    grid-template-columns: 120px 1fr 110px 1.4fr 2fr;
    gap: 12px;
    font-size: 12.5px;
    line-height: 22px;
    border-bottom: 1px solid var(--mist-1);
  }
  .set.sel {
    background: var(--row-kaki);
  }
</style>
