<script setup lang="ts">
// The concepts as a picture: bands as thick as there are studies under each; a concept opens its studies.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got } from '@/api/client'
import { plural } from '@/common/format'
import FirstStep from '@/common/FirstStep.vue'
import { useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { drawnTree } from './tree'

const { review, path } = useReview()
const route = useRoute()
const router = useRouter()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['evidence', review, 'concepts'],
  queryFn: () => got(GET('/api/reviews/{review}/concepts', { params: path.value })),
})
const tree = computed(() => drawnTree(data.value ?? []))
const chosen = computed(() => data.value?.find((one) => one.id === Number(route.query.concept)) ?? data.value?.[0])
const { data: studies } = useQuery({
  queryKey: ['evidence', review, 'concepts', computed(() => chosen.value?.id)],
  enabled: computed(() => Boolean(chosen.value)),
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/concepts/{concept}/studies', {
        params: { path: { review: review.value, concept: chosen.value!.id } },
      }),
    ),
})
const open = (id: number) => router.replace({ query: { concept: String(id) } })
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div v-if="!data?.length" class="pane pad soft all">
      <h2>The codebook has no concepts</h2>
      <p>Put items under broader concepts, and this picture shows how many studies say something about each.</p>
      <FirstStep stage="Chart" />
    </div>
    <div v-else class="panes columns">
      <section class="pane picture">
        <svg
          :viewBox="`0 0 ${tree.width} ${tree.height}`"
          :width="tree.width"
          :height="tree.height"
          role="group"
          aria-label="Concepts with their studies"
        >
          <path v-for="band in tree.bands" :key="band.key" :d="band.d" class="band" />
          <g
            v-for="node in tree.nodes"
            :key="node.id"
            :transform="`translate(${node.x} ${node.y})`"
            class="node"
            :class="{ on: node.id === chosen?.id }"
            role="button"
            tabindex="0"
            :aria-label="`${node.name}: ${plural(node.studies, 'study', 'studies')}`"
            :aria-pressed="node.id === chosen?.id"
            @click="open(node.id)"
            @keydown.enter="open(node.id)"
            @keydown.space.prevent="open(node.id)"
          >
            <rect :width="tree.box" height="44" rx="3" />
            <text x="12" y="18" class="name">{{ node.name }}</text>
            <text x="12" y="35" class="soft">{{ plural(node.studies, 'study', 'studies') }}</text>
          </g>
        </svg>
      </section>
      <section class="pane sheet" aria-label="Studies under the concept">
        <div class="head">
          <b class="clip">{{ chosen?.name }}</b><span class="soft small">{{
            plural(chosen?.studies.length ?? 0, 'study', 'studies')
          }}</span>
        </div>
        <div class="pad fields">
          <p class="small soft">
            {{ chosen?.items.length ? `Items: ${chosen.items.join(', ')}` : 'No items of its own.' }}
          </p>
          <article v-for="study in studies" :key="study.id">
            <h3>
              <router-link :to="`/reviews/${review}/chart?words=${encodeURIComponent(study.label)}`">{{
                study.label
              }}</router-link>
            </h3>
            <details v-for="one in study.reports" :key="one.record_id">
              <summary class="read">{{ one.title }}</summary>
              <p class="read">{{ one.abstract || 'It has no abstract.' }}</p>
            </details>
            <p class="small soft">
              Found by {{ [...new Set(study.reports.flatMap((one) => one.found_by))].join('; ') || 'nothing known' }}
            </p>
          </article>
          <p v-if="studies && !studies.length" class="soft">No study states anything under it yet.</p>
        </div>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) minmax(320px, 420px);
}
.all {
  height: 100%;
}
.picture {
  padding: 24px;
}
.band {
  fill: var(--ks-copper);
  opacity: 0.3;
}
.node {
  cursor: pointer;
}
.node rect {
  fill: var(--ks-sheet);
  stroke: var(--ks-hair);
}
.node.on rect {
  stroke: var(--ks-copper);
  stroke-width: 2;
}
.node:focus-visible {
  outline: none;
}
.node:focus-visible rect {
  stroke: var(--ks-copper);
  stroke-width: 3;
}
.node text {
  fill: var(--ks-ink);
  font-size: 13px;
}
.node .name {
  font-weight: 600;
}
.node .soft {
  fill: var(--ks-soft);
  font-size: 12px;
}
article {
  border-top: 1px solid var(--ks-hair);
  padding-top: 10px;
  display: grid;
  gap: 4px;
}
summary {
  cursor: pointer;
}
</style>
