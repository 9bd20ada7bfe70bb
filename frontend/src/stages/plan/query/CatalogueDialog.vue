<script setup lang="ts">
// Connecting catalogues by their address.
import { reactive, ref } from 'vue'
import { DELETE, got, POST, Refusal, type Schemas } from '@/api/client'
import { attempt, say } from '@/common/messages'
import { useRefresh } from '@/common/review'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ review: number; catalogues: Schemas['Catalogue'][]; may: boolean }>()
const emit = defineEmits<{ connected: [number: number] }>()
const refresh = useRefresh()
const blank = { name: '', address: '', version: '2.0' as const, form: 'marcxml' as const }
const form = reactive<Schemas['NewCatalogue']>({ ...blank })
const wrong = ref('')
const asking = ref(false)
const FORMS = [
  { value: 'marcxml', title: 'MARCXML' },
  { value: 'mods', title: 'MODS' },
  { value: 'dc', title: 'Dublin Core' },
]

async function connect() {
  wrong.value = ''
  asking.value = true
  try {
    const { id } = await got(
      POST('/api/reviews/{review}/catalogues', { params: { path: { review: props.review } }, body: form }),
    )
    await refresh('catalogues')
    Object.assign(form, blank)
    open.value = false
    emit('connected', id)
  } catch (error) {
    wrong.value = error instanceof Refusal ? error.message : 'The server could not be reached; please try again.'
  } finally {
    asking.value = false
  }
}
async function disconnect(catalogue: Schemas['Catalogue']) {
  const params = { path: { review: props.review, number: catalogue.id } }
  if (await attempt(() => got(DELETE('/api/reviews/{review}/catalogues/{number}', { params }))))
    say(`${catalogue.name} is disconnected.`, () =>
      got(POST('/api/reviews/{review}/catalogues/{number}/back', { params })),
    )
  await refresh('catalogues')
}
</script>

<template>
  <v-dialog v-model="open" max-width="640" aria-label="Connected catalogues">
    <v-card class="pad">
      <h2>Connected catalogues</h2>
      <table v-if="catalogues.length" class="small">
        <tbody>
          <tr v-for="catalogue in catalogues" :key="catalogue.id">
            <td>
              <b>{{ catalogue.name }}</b>
              <div class="soft mono">{{ catalogue.address }}</div>
            </td>
            <td class="soft">
              {{ catalogue.version }}, {{ FORMS.find((one) => one.value === catalogue.form)?.title }}
            </td>
            <td class="num">
              <button
                v-if="may"
                class="link"
                :aria-label="`Disconnect ${catalogue.name}`"
                @click="disconnect(catalogue)"
              >
                Disconnect
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <form v-if="may" class="fields gap" @submit.prevent="connect">
        <p class="soft small">A catalogue that speaks Search/Retrieve via URL is asked first what it is.</p>
        <TextField v-model="form.address" label="Address" placeholder="https://…" maxlength="1000" autofocus />
        <div class="row">
          <TextField v-model="form.name" label="Name, if not its own" maxlength="200" /><ChoiceField
            v-model="form.version"
            :items="['2.0', '1.2']"
            label="Version"
            class="narrow"
          /><ChoiceField v-model="form.form" :items="FORMS" label="Records as" class="narrow" />
        </div>
        <p v-if="wrong" class="bad" role="alert">{{ wrong }}</p>
        <div class="row">
          <v-btn class="main" type="submit" :disabled="!form.address.trim() || asking">{{
            asking ? 'Asking …' : 'Connect'
          }}</v-btn><v-btn @click="open = false">Close</v-btn>
        </div>
      </form>
      <div v-else class="row gap">
        <span class="soft small">A lead connects catalogues.</span
        ><v-btn class="push" @click="open = false">Close</v-btn>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.gap {
  margin-top: 14px;
}
.narrow {
  max-width: 150px;
}
</style>
