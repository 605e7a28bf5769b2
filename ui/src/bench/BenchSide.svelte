<script lang="ts">
  // Beside an instrument: what must be true, what it lives on, and what is done when the list ends; after trouble what to do and how it goes on.
  import type { BenchPost } from "../api/client";
  import Side from "../parts/Side.svelte";
  import { bench, clock } from "./bench.svelte";
  import VentAsk from "./VentAsk.svelte";
  import ConditionLine from "./ConditionLine.svelte";

  let { post, choice = $bindable() }: { post: BenchPost; /** How it goes on after trouble. */ choice: string } = $props();
  const stand = $derived(post.state!);
  const trouble = $derived(stand.phase === "stopped" ? stand.trouble : null);
  const list = $derived(trouble ? trouble.to_do : stand.conditions);
  const isTrue = $derived(list.filter((c) => c.standing === "true").length);
  const first = $derived(list.find((c) => c.standing === "person" && c.looked)?.id);
  const may = $derived(list.every((c) => c.standing === "true"));
  const ending = $derived(stand.endings.find((e) => e.id === stand.ending));
  const thens = [
    ["pump_down", "pump down by itself when the door is shut"],
    ["stay_off", "stay off: pump stands, no vacuum"],
  ] as const;
  const low = (here: number, needed: number, full: number, fills: boolean) => (fills ? full - here : here) < needed;
  const near = (lasts: number, needed: number, here: number) => needed > 0 && here < needed * 1.5 && lasts >= 0;
</script>

<Side>
  {#if bench.trouble}<section aria-label="Refused"><p class="att" role="alert">{bench.trouble}</p></section>{/if}
  {#if stand.vented}
    <section aria-label="Before the door opens">
      <h2>{stand.phase === "open" ? "Open" : "Before the door opens"} <span class="r">{isTrue} of {list.length} true</span></h2>
      {#each list as c (c.id)}<ConditionLine {post} {c} first={c.id === first} />{/each}
    </section>
    <section aria-label="While it is open">
      <h2>While it is open <span class="r">what it lives on</span></h2>
      {#each stand.supplies as s (s.id)}
        <p class="kept">
          <span>{s.name}</span><span class="mut">{s.here} of {s.full} {s.unit}</span>
          <button
            class="lnk"
            disabled={stand.phase !== "open"}
            title={stand.phase === "open"
              ? "It was changed: its count begins anew, and the record has your name"
              : "Once the door may be opened"}
            onclick={() => bench.act(post.id, { kind: "changed", what: s.id })}>changed</button
          >
        </p>
      {/each}
    </section>
    <section aria-label="Then">
      <h2>Then <span class="r">chosen beforehand</span></h2>
      {#each thens as [id, says] (id)}<label class="chk"
          ><input
            type="radio"
            name="then"
            checked={stand.vented.then === id}
            title={says}
            onchange={() => bench.act(post.id, { kind: "ends", choice: id })}
          />{says}</label
        >{/each}
    </section>
  {:else if stand.phase !== "resting" || stand.list_id !== ""}
    <section aria-label={trouble ? "What to do" : "Ready"}>
      <h2>
        {trouble ? "What to do" : stand.phase === "preparing" ? "Getting ready" : "Ready"}
        <span class="r"
          >{stand.ready_since && !trouble && stand.phase !== "preparing"
            ? `since ${clock(stand.ready_since)}`
            : `${isTrue} of ${list.length} true`}</span
        >
      </h2>
      {#each list as c (c.id)}<ConditionLine {post} {c} first={c.id === first} />{/each}
      {#if stand.phase === "preparing"}<p class="note">Each line turns true by itself; only what asks for you is pressed.</p>{/if}
    </section>
  {/if}
  {#if stand.vented}<!-- said above -->
  {:else if trouble}
    <section aria-label="Then">
      <h2>Then</h2>
      {#each trouble.choices as c (c.id)}<label class="chk"
          ><input type="radio" name="go-on" value={c.id} bind:group={choice} title={c.says} />{c.says}</label
        >{/each}
      <p class="go">
        <button
          class="btn pri"
          disabled={!choice || (!may && choice !== "end_here")}
          title={may ? "Goes on as chosen" : "Waits until all lines above are true"}
          onclick={() => bench.act(post.id, { kind: "go_on", choice })}>Go on <kbd>Enter</kbd></button
        >
        {#if !may}<span class="note">waits for {list.find((c) => c.standing !== "true")?.name.toLowerCase()}</span>{/if}
      </p>
      {#if trouble.on}<p class="note">On until then: {trouble.on}. Off: {trouble.off}.</p>{/if}
    </section>
  {:else}
    <section aria-label="What it lives on">
      <h2>What it lives on <span class="r">bar: here; tick: needed</span></h2>
      {#each stand.supplies as s (s.id)}
        {@const short = low(s.here, s.needed, s.full, s.fills)}
        {@const close = near(s.lasts, s.needed, s.fills ? s.full - s.here : s.here)}
        <div class="sup">
          <p>
            <span>{s.name}</span><span class:cau={close && !short} class:att={short}
              >{s.fills ? `room for ${s.lasts} more` : `${s.lasts} more`}, {s.here} of {s.full} {s.unit}</span
            >
          </p>
          <svg viewBox="0 0 100 8" preserveAspectRatio="none" aria-hidden="true">
            <path class="rail" d="M0 5H100" /><path
              class="here"
              class:cau={close || short}
              d="M0 5H{Math.min(100, (s.here / s.full) * 100)}"
            />
            {#if s.needed > 0}<path
                class="need"
                d="M{Math.min(99.6, ((s.fills ? s.full - s.needed : s.needed) / s.full) * 100)} 1V8"
              />{/if}
          </svg>
        </div>
      {/each}
    </section>
    <section aria-label="When the list ends">
      <h2>When the list ends <span class="r">{stand.ends_at ? clock(stand.ends_at) : ""}</span></h2>
      {#if stand.list_id}
        {#each stand.endings as e (e.id)}<label class="chk"
            ><input
              type="radio"
              name="ending"
              checked={stand.ending === e.id}
              title={e.then}
              onchange={() => bench.act(post.id, { kind: "ends", choice: e.id })}
            />{e.says}</label
          >{/each}
        <p class="note">{ending?.then} The end is measured, and confirmed here and in the record.</p>
      {/if}
      {#if stand.confirmed}<p><b>Confirmed {clock(stand.confirmed_at)}</b>: {stand.confirmed}.</p>{/if}
    </section>
  {/if}
  <VentAsk {post} />
  {#if post.stand_in}
    <section aria-label="A stand-in">
      <h2>A stand-in <span class="r">time × {post.speed}</span></h2>
      <p class="note">There is no instrument behind this one: heat, flow, light and what elutes are computed. Make something go wrong:</p>
      <p class="faults">
        {#each post.faults as f (f)}<button class="lnk" title="Makes this go wrong, to learn by" onclick={() => bench.fault(post.id, f)}
            >{f}</button
          >{/each}
      </p>
    </section>
  {/if}
</Side>

<style>
  .chk {
    min-height: 26px;
    display: flex;
    align-items: center;
    gap: 6px;
    font-size: 13px;
  }
  .kept {
    display: grid;
    grid-template-columns: 1fr auto auto;
    gap: 10px;
    min-height: 24px;
    align-items: center;
    font-size: 12.5px;
  }
  .kept button:disabled {
    color: var(--ink-3);
  }
  .go {
    display: flex;
    gap: 12px;
    align-items: center;
    margin: 6px 0;
  }
  .sup p {
    display: flex;
    justify-content: space-between;
    font-size: 12.5px;
    line-height: 17px;
  }
  .sup svg {
    width: 100%;
    height: 8px;
    margin-bottom: 3px;
  }
  .sup path {
    fill: none;
    vector-effect: non-scaling-stroke;
  }
  .rail {
    stroke: var(--mist-1);
  }
  .here {
    stroke: var(--ink-2);
    stroke-width: 3;
  }
  path.cau {
    stroke: var(--ochre);
  }
  .need {
    stroke: var(--ink);
    stroke-width: 1.6;
  }
  .faults {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 14px;
    font-size: 12.5px;
  }
  .faults button {
    min-height: 24px;
  }
</style>
