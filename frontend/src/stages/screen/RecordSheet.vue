<script setup lang="ts">
// A record for reading: title, reference, abstract, why it stands at its place, and where it comes from.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { ago, KIND_WORDS, moment, people, percent, place, plural, VERDICT_WORDS } from '@/common/format'
import MarkedText from '@/common/MarkedText.vue'
import VerdictMark from '@/common/VerdictMark.vue'
import { useKeys } from '@/common/keys'
import { useTextSize } from './size'

const props = defineProps<{ sheet: Schemas['Sheet']; review: number; mayWrite: boolean; pass: number }>()
const emit = defineEmits<{ seed: [value: boolean] }>()
const record = computed(() => props.sheet.record)
const { scale, larger, smaller } = useTextSize()
useKeys({ '+': larger, '-': smaller })
const reference = computed(() =>
  [
    people(record.value.authors),
    record.value.year,
    place(record.value),
    record.value.kind === 'article' ? '' : KIND_WORDS[record.value.kind],
  ].filter(Boolean),
)
const signed = (n: number) => (n <= -0.005 ? '−' : '+') + Math.abs(n).toFixed(2)
const sum = (some: Schemas['Other'][]) => some.reduce((total, one) => total + one.weight, 0)
const score = computed(() => {
  const why = props.sheet.why
  return why
    ? why.words.reduce((total, one) => total + one.weight, why.rest + why.sense + why.start) + sum(why.alike)
    : 0
})
const supports = (term: Schemas['Term']) => term.weight > 0
const speaks = computed(() =>
  props.sheet.spoken?.end ? record.value.abstract.slice(props.sheet.spoken.begin, props.sheet.spoken.end).trim() : '',
)
const labels = computed(() => [...new Set(props.sheet.origins.flatMap((origin) => origin.labels))])
const past = computed(() => props.sheet.history.filter((one) => one.pass_number === props.pass || one.withdrawn_at))
</script>

<template>
  <article class="sheet-body" :style="{ '--read': scale }" :aria-label="record.title || 'Untitled'">
    <div class="small soft rank">
      <template v-if="sheet.spoken"
        >Number {{ sheet.spoken.rank }} in the chosen order{{
          sheet.spoken.score !== null && sheet.spoken.score >= 0 ? ` · ${sheet.spoken.score.toFixed(2)}` : ''
        }}{{ sheet.rank ? ` · rank ${sheet.rank} by closeness` : '' }}</template
      >
      <template v-else-if="sheet.rank && !sheet.learned_from"
        >Number {{ sheet.rank }} in the order of import: nothing is known yet of what belongs</template
      >
      <template v-else-if="sheet.rank"
        >Rank {{ sheet.rank }} · <span class="bar" :style="{ width: `${Math.round(64 * (sheet.closeness ?? 0))}px` }" />
        {{ sheet.closeness?.toFixed(2) }} · learned from {{ sheet.learned_from }} decisions and seeds{{
          sheet.ranked_at ? `, ${ago(sheet.ranked_at)}` : ''
        }}</template
      >
      <template v-else>Not ranked yet</template>
    </div>
    <h1 class="read">
      <MarkedText v-if="record.title" :text="record.title" :marks="sheet.title_marks" /><span v-else class="soft"
        >Untitled</span
      >
    </h1>
    <p class="small soft reference">
      <template v-for="(part, k) in reference" :key="k">{{ k ? ' · ' : '' }}{{ part }}</template>
      <template v-if="record.journal">
        · <i>{{ record.journal }}</i></template
      >
      <template v-if="record.doi">
        ·
        <a :href="`https://doi.org/${record.doi}`" target="_blank" rel="noreferrer noopener">{{
          record.doi
        }}</a></template
      >
    </p>
    <p v-if="sheet.question" class="odd small flag">
      This may be a copy of another record:
      <router-link :to="`/reviews/${review}/match?pair=${sheet.question}`">the pair waits for an answer</router-link>.
    </p>
    <p v-if="sheet.blind" class="small soft flag">
      Read blind: what others say of it is shown once all its readers have decided.
      <template v-if="sheet.mine">
        You said: <VerdictMark :verdict="sheet.mine" words="" /> {{ VERDICT_WORDS[sheet.mine] }}.</template
      >
    </p>
    <p v-if="sheet.holder" class="odd small flag">{{ sheet.holder }} has this record on the desk.</p>
    <p v-if="speaks" class="speaks read"><span class="small soft">Speaks most to the question:</span> {{ speaks }}</p>
    <p v-if="record.abstract" class="read abstract">
      <MarkedText :text="record.abstract" :marks="sheet.abstract_marks" :parts="sheet.abstract_parts" />
    </p>
    <p v-else class="odd abstract">
      No source gave an abstract for this record.
      <router-link v-if="mayWrite" class="small" :to="`/reviews/${review}/records/${sheet.id}`">Paste one</router-link>
    </p>
    <dl class="small">
      <template v-if="sheet.why">
        <dt>Here because</dt>
        <dd class="why">
          <template v-for="term in sheet.why.words" :key="term.term"
            ><span :class="supports(term) ? 'for' : 'against'">{{ term.term }}</span>
            <span class="soft">{{ signed(term.weight) }}</span> ·
          </template>
          other words <span class="soft">{{ signed(sheet.why.rest) }}</span> · sense of the whole
          <span class="soft">{{ signed(sheet.why.sense) }}</span> · every record starts at
          <span class="soft">{{ signed(sheet.why.start) }}</span>
          <details>
            <summary>
              the {{ sheet.why.alike.length }} records most like it
              <span class="soft">{{ signed(sum(sheet.why.alike)) }} · together {{ signed(score) }}</span>
            </summary>
            <ol>
              <li v-for="one in sheet.why.alike" :key="one.id">
                <VerdictMark :verdict="one.verdict" />
                <router-link :to="`/reviews/${review}/records/${one.id}`">{{ one.title || 'Untitled' }}</router-link>
                <span class="soft">{{ signed(one.weight) }}</span>
              </li>
            </ol>
          </details>
        </dd>
        <dt>Chance</dt>
        <dd v-if="sheet.why.chance">
          {{ sheet.why.chance.chance < 0.005 ? 'below 1 %' : percent(sheet.why.chance.chance) }}
          <span class="soft"
            >of belonging, 95 % band {{ percent(sheet.why.chance.low) }} to {{ percent(sheet.why.chance.high) }}, as
            {{ plural(sheet.why.chance.included, 'included', 'included') }} and
            {{ plural(sheet.why.chance.excluded, 'excluded', 'excluded') }} of the team’s own tell</span
          >
        </dd>
        <dd v-else class="soft">
          not told: it takes ten included and thirty excluded records, some of them lately, and decisions that reach
          this far
        </dd>
        <template v-if="sheet.why.nearest.length">
          <dt>Nearest decided</dt>
          <dd>
            <ol>
              <li v-for="one in sheet.why.nearest" :key="one.id">
                <VerdictMark :verdict="one.verdict" />
                <router-link :to="`/reviews/${review}/records/${one.id}`">{{ one.title || 'Untitled' }}</router-link>
                <span v-if="one.seed" class="soft">seed</span>
              </li>
            </ol>
          </dd>
        </template>
      </template>
      <dt>Found by</dt>
      <dd class="tags">
        <router-link
          v-for="origin in sheet.origins"
          :key="origin.id"
          class="tag"
          :to="`/reviews/${review}/gather/files/${origin.batch_id}?record=${origin.position}`"
          >{{ origin.source }} · search {{ origin.number }}{{ origin.run > 1 ? `.${origin.run}` : '' }}, line
          {{ origin.line }}{{ origin.query_version ? ` · query version ${origin.query_version}` : '' }}</router-link
        >
        <router-link class="soft" :to="`/reviews/${review}/records/${sheet.id}`">its page</router-link>
        <router-link
          v-if="sheet.origins.length > 1"
          class="soft"
          :to="`/reviews/${review}/match/groups?record=${sheet.id}`"
          >{{ sheet.origins.length }} copies</router-link
        >
      </dd>
      <template v-if="labels.length"
        ><dt>Labels</dt>
        <dd class="tags">
          <span v-for="name in labels" :key="name" class="tag">{{ name }}</span>
        </dd></template
      >
      <template v-if="record.keywords.length"
        ><dt>Descriptors</dt>
        <dd class="soft">{{ record.keywords.map((word) => word.replace('/', ' / ')).join(' · ') }}</dd></template
      >
      <template v-if="record.language"
        ><dt>Language</dt>
        <dd class="soft">{{ record.language }}</dd></template
      >
      <template v-if="past.length">
        <dt>Decisions</dt>
        <dd>
          <div v-for="(one, k) in past" :key="k" class="soft">
            <VerdictMark :verdict="one.verdict" /> {{ one.settles ? 'Settled: ' : '' }}{{ VERDICT_WORDS[one.verdict]
            }}{{ one.criterion ? `: ${one.criterion}` : '' }}, {{ one.by }}, {{ moment(one.at)
            }}{{ one.withdrawn_at ? ', taken back' : '' }}
          </div>
        </dd>
      </template>
      <dt>Seed</dt>
      <dd>
        <span :class="sheet.seed ? '' : 'soft'">{{ sheet.seed ? 'Yes' : 'No' }}</span>
        <v-btn v-if="mayWrite" class="seed" @click="emit('seed', !sheet.seed)">{{
          sheet.seed ? 'Not a seed' : 'Mark as a seed'
        }}</v-btn>
      </dd>
    </dl>
  </article>
</template>

<style scoped>
.sheet-body {
  padding: 20px 36px 36px;
  max-width: 760px;
}
.rank {
  margin-bottom: 8px;
}
h1 {
  font-size: calc(22px * var(--read));
  line-height: calc(30px * var(--read));
  font-weight: 600;
  overflow-wrap: anywhere;
}
.reference {
  margin: 8px 0 16px;
  overflow-wrap: anywhere;
}
.speaks {
  border-left: 2px solid var(--ks-copper);
  padding-left: 10px;
  margin-bottom: 12px;
  max-width: 62ch;
}
.flag {
  margin-bottom: 10px;
}
.abstract {
  font-size: calc(16px * var(--read));
  line-height: calc(26px * var(--read));
  max-width: 62ch;
  overflow-wrap: anywhere;
  white-space: pre-line;
}
dl {
  margin: 18px 0 0;
  display: grid;
  grid-template-columns: 108px minmax(0, 1fr);
  row-gap: 8px;
  max-width: 640px;
}
dt {
  color: var(--ks-soft);
}
dd {
  margin: 0;
}
.tags {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.tags .tag {
  text-decoration: none;
}
.tags .tag:hover {
  text-decoration: underline;
}
.seed {
  margin-left: 8px;
}
/* room for the waves */
.why {
  line-height: 20px;
}
ol {
  list-style: none;
  margin: 2px 0 0;
  padding: 0;
  display: grid;
  gap: 3px;
}
li {
  display: grid;
  grid-template-columns: 12px minmax(0, 1fr) auto;
  gap: 6px;
  align-items: baseline;
}
li a {
  color: var(--ks-ink);
}
summary {
  cursor: pointer;
}
</style>
