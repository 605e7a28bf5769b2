<script lang="ts">
  // The evidence that a compound must bring, part of the method. Changed numbers are kept by Enter, with the reason that the version bears.
  import type { Batch, ScreenRules } from "../../api/client";
  import { desk } from "../../state/desk.svelte";
  import { reason } from "../../state/reason.svelte";

  let { batch, rules }: { batch: Batch; rules: ScreenRules } = $props();
  const method = $derived(batch.version.method);
  const own = $derived(method.screening !== undefined && method.screening !== null);
  const targets = $derived(method.compounds.filter((c) => c.role === "target"));
  const read = (text: string) => Number(text.trim().replace(",", "."));
  let trouble = $state("");
  async function keep(next: ScreenRules, what: string) {
    trouble = "";
    const why = await reason.ask(`Screening: ${what}`);
    if (why) await desk.saveMethod({ ...method, screening: next }, why);
  }
  function set(field: "retention_min" | "least_match" | "least_signal_to_noise", words: string, text: string) {
    const v = read(text);
    if (text.trim() === "" || !Number.isFinite(v)) trouble = `“${text}” is no number.`;
    else if (v !== rules[field]) void keep({ ...rules, [field]: v }, `${words} ${text}`);
  }
  function limit(id: string, name: string, text: string) {
    const v = text.trim() === "" ? 0 : read(text);
    if (!Number.isFinite(v) || v < 0) trouble = `“${text}” is no limit.`;
    else if (v !== (rules.limits?.[id] ?? 0))
      void keep({ ...rules, limits: { ...rules.limits, [id]: v } }, `limit of ${name} ${text || "none"}`);
  }
  const asked = (id: string) => !rules.only?.length || rules.only.includes(id);
  function toggle(id: string, name: string) {
    const now = targets.map((c) => c.id).filter((c) => (c === id ? !asked(c) : asked(c)));
    if (now.length === 0) trouble = "At least one compound is screened for.";
    else void keep({ ...rules, only: now.length === targets.length ? [] : now }, `${name} ${asked(id) ? "no longer" : "too"}`);
  }
</script>

<section aria-label="Rules of the screening">
  <h2>Rules <span class="r">{own ? `version ${batch.version.number}` : "not in the method yet"}</span></h2>
  {#each [["retention_min", "Retention, ± min", "of the standard nearest in the run; 0 asks nothing"], ["least_match", "Spectrum, at least", "0 to 100: of masses the forward match, of wavelengths the cosine of the angle; 0 asks nothing"], ["least_signal_to_noise", "Signal to noise, at least", "below it a compound is below the limit; 0 asks nothing"]] as const as [field, words, title] (field)}
    <label class="fact" {title}
      ><span>{words}</span><input
        class="field num"
        value={rules[field]}
        onchange={(e) => set(field, words, e.currentTarget.value)}
      /></label
    >
  {/each}
  <table>
    <thead><tr><th class="l">Screened for</th><th>limit</th></tr></thead>
    <tbody>
      {#each targets as c (c.id)}<tr>
          <td class="l"
            ><label class="chk" title="Whether samples are screened for {c.name}"
              ><input type="checkbox" checked={asked(c.id)} onchange={() => toggle(c.id, c.name)} />{c.name}</label
            ></td
          >
          <td
            ><input
              class="field num"
              aria-label="Limit of {c.name}"
              title="The least content that is told, in the reported unit; empty is none"
              value={rules.limits?.[c.id] || ""}
              onchange={(e) => limit(c.id, c.name, e.currentTarget.value)}
            /></td
          >
        </tr>{/each}
    </tbody>
  </table>
  <p class="note">How far ratios may stand off says each qualifier, at the Compounds station.</p>
  {#if trouble}<p class="att" role="alert">{trouble}</p>{/if}
</section>

<style>
  .fact {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    align-items: baseline;
    padding: 2px 0;
    font-size: 12.5px;
  }
  input.num {
    width: 64px;
    text-align: right;
  }
  table {
    width: 100%;
    margin: 4px 0;
  }
</style>
