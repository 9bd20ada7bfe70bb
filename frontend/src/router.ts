import { createRouter, createWebHistory } from 'vue-router'
import { GET, got } from '@/api/client'
import { attempt } from '@/common/messages'

declare module 'vue-router' {
  interface RouteMeta {
    title?: string
    stage?: string
  }
}

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/sign-in', component: () => import('@/frame/SignIn.vue'), meta: { title: 'Sign in' } },
    { path: '/account', component: () => import('@/frame/AccountPage.vue'), meta: { title: 'Your account' } },
    {
      path: '/invitation/:token',
      component: () => import('@/frame/InvitationPage.vue'),
      meta: { title: 'An invitation' },
    },
    {
      path: '/look',
      component: () => import('@/common/fields/AllStates.vue'),
      meta: { title: 'Fields in all states' },
    },
    { path: '/convert', component: () => import('@/stages/gather/Convert.vue'), meta: { title: 'Convert a file' } },
    { path: '/', component: () => import('@/stages/reviews/ReviewList.vue'), meta: { title: 'Reviews' } },
    {
      path: '/reviews/:review(\\d+)',
      component: () => import('@/frame/ReviewFrame.vue'),
      redirect: (to) => `/reviews/${String(to.params.review)}/plan`,
      children: [
        {
          path: 'plan',
          component: () => import('@/stages/plan/Protocol.vue'),
          meta: { stage: 'Plan', title: 'Protocol' },
        },
        {
          path: 'plan/versions',
          component: () => import('@/stages/plan/Versions.vue'),
          meta: { stage: 'Plan', title: 'Versions of the protocol' },
        },
        {
          path: 'plan/seeds',
          component: () => import('@/stages/plan/Seeds.vue'),
          meta: { stage: 'Plan', title: 'Seeds' },
        },
        {
          path: 'plan/words',
          component: () => import('@/stages/plan/Words.vue'),
          meta: { stage: 'Plan', title: 'Words' },
        },
        {
          path: 'plan/query',
          component: () => import('@/stages/plan/Query.vue'),
          meta: { stage: 'Plan', title: 'Query' },
        },
        {
          path: 'plan/vocabulary',
          component: () => import('@/stages/plan/Vocabulary.vue'),
          meta: { stage: 'Plan', title: 'Vocabulary' },
        },
        {
          path: 'plan/syntaxes',
          component: () => import('@/stages/plan/Syntaxes.vue'),
          meta: { stage: 'Plan', title: 'Syntaxes' },
        },
        {
          path: 'plan/team',
          component: () => import('@/stages/plan/Team.vue'),
          meta: { stage: 'Plan', title: 'Team' },
        },
        {
          path: 'gather',
          component: () => import('@/stages/gather/Searches.vue'),
          meta: { stage: 'Gather', title: 'Searches' },
        },
        {
          path: 'gather/files',
          component: () => import('@/stages/gather/Files.vue'),
          meta: { stage: 'Gather', title: 'Files' },
        },
        {
          path: 'gather/files/:batch(\\d+)',
          component: () => import('@/stages/gather/Reading.vue'),
          meta: { stage: 'Gather', title: 'Reading a file' },
        },
        {
          path: 'gather/files/:batch(\\d+)/recipe',
          component: () => import('@/stages/gather/Recipe.vue'),
          meta: { stage: 'Gather', title: 'Recipe of a file' },
        },
        {
          path: 'gather/recipes',
          component: () => import('@/stages/gather/Recipes.vue'),
          meta: { stage: 'Gather', title: 'Recipes' },
        },
        {
          path: 'gather/narrowing',
          component: () => import('@/stages/gather/Narrowing.vue'),
          meta: { stage: 'Gather', title: 'Narrowing' },
        },
        {
          path: 'gather/gaps',
          component: () => import('@/stages/gather/Gaps.vue'),
          meta: { stage: 'Gather', title: 'Gaps' },
        },
        {
          path: 'gather/one',
          component: () => import('@/stages/gather/OneRecord.vue'),
          meta: { stage: 'Gather', title: 'One record' },
        },
        {
          path: 'match',
          component: () => import('@/stages/match/PairDesk.vue'),
          meta: { stage: 'Match', title: 'To decide' },
        },
        {
          path: 'match/groups',
          component: () => import('@/stages/match/Groups.vue'),
          meta: { stage: 'Match', title: 'Groups' },
        },
        {
          path: 'match/rule',
          component: () => import('@/stages/match/Rule.vue'),
          meta: { stage: 'Match', title: 'Rule of matching' },
        },
        {
          path: 'match/dry-runs/:trial?',
          component: () => import('@/stages/match/DryRuns.vue'),
          meta: { stage: 'Match', title: 'Dry runs' },
        },
        {
          path: 'match/checks',
          component: () => import('@/stages/match/Checks.vue'),
          meta: { stage: 'Match', title: 'Checked by hand' },
        },
        {
          path: 'match/answers',
          component: () => import('@/stages/match/Answers.vue'),
          meta: { stage: 'Match', title: 'Answers' },
        },
        {
          path: 'match/late',
          component: () => import('@/stages/match/Late.vue'),
          meta: { stage: 'Match', title: 'Late copies' },
        },
        {
          path: 'screen',
          component: () => import('@/stages/screen/Desk.vue'),
          props: { pass: 1 },
          meta: { stage: 'Screen', title: 'First pass' },
        },
        {
          path: 'screen/full-texts',
          component: () => import('@/stages/screen/FullTexts.vue'),
          meta: { stage: 'Screen', title: 'Full texts' },
        },
        {
          path: 'screen/delivered',
          component: () => import('@/stages/screen/Delivered.vue'),
          meta: { stage: 'Screen', title: 'PDFs to place' },
        },
        {
          path: 'screen/second',
          component: () => import('@/stages/screen/Desk.vue'),
          props: { pass: 2 },
          meta: { stage: 'Screen', title: 'Second pass' },
        },
        {
          path: 'screen/differences',
          component: () => import('@/stages/screen/Differences.vue'),
          meta: { stage: 'Screen', title: 'Differences' },
        },
        {
          path: 'screen/sheet',
          component: () => import('@/stages/screen/Sheet.vue'),
          meta: { stage: 'Screen', title: 'A list as a spreadsheet' },
        },
        {
          path: 'screen/standing',
          component: () => import('@/stages/screen/Standing.vue'),
          meta: { stage: 'Screen', title: 'Where things stand' },
        },
        {
          path: 'screen/groups',
          component: () => import('@/stages/screen/Groups.vue'),
          meta: { stage: 'Screen', title: 'Groups that are alike' },
        },
        {
          path: 'screen/passes',
          component: () => import('@/stages/screen/Passes.vue'),
          meta: { stage: 'Screen', title: 'Passes' },
        },
        {
          path: 'screen/agreement',
          component: () => import('@/stages/screen/Agreement.vue'),
          meta: { stage: 'Screen', title: 'Agreement' },
        },
        {
          path: 'screen/left',
          component: () => import('@/stages/screen/Left.vue'),
          meta: { stage: 'Screen', title: 'What is left' },
        },
        {
          path: 'records',
          component: () => import('@/stages/gather/Records.vue'),
          meta: { stage: 'Gather', title: 'Records' },
        },
        {
          path: 'records/:record(\\d+)',
          component: () => import('@/stages/gather/RecordPage.vue'),
          meta: { stage: 'Gather', title: 'A record' },
        },
        {
          path: 'chart',
          component: () => import('@/stages/chart/EvidenceTable.vue'),
          meta: { stage: 'Chart', title: 'Evidence table' },
        },
        {
          path: 'chart/proposals',
          component: () => import('@/stages/chart/Proposals.vue'),
          meta: { stage: 'Chart', title: 'Proposals' },
        },
        {
          path: 'chart/extractors',
          component: () => import('@/stages/chart/Extractors.vue'),
          meta: { stage: 'Chart', title: 'Two extractors' },
        },
        {
          path: 'chart/differences',
          component: () => import('@/stages/chart/ReadDifferently.vue'),
          meta: { stage: 'Chart', title: 'Read differently' },
        },
        {
          path: 'chart/appraisal',
          component: () => import('@/stages/chart/Appraisal.vue'),
          meta: { stage: 'Chart', title: 'Appraisal' },
        },
        {
          path: 'chart/appraisal/form',
          component: () => import('@/stages/chart/AppraisalForm.vue'),
          meta: { stage: 'Chart', title: 'Form of appraisal' },
        },
        {
          path: 'chart/codebook',
          component: () => import('@/stages/chart/Codebook.vue'),
          meta: { stage: 'Chart', title: 'Codebook' },
        },
        {
          path: 'chart/concepts',
          component: () => import('@/stages/chart/Concepts.vue'),
          meta: { stage: 'Chart', title: 'Concepts' },
        },
        {
          path: 'chart/ask',
          component: () => import('@/stages/chart/Ask.vue'),
          meta: { stage: 'Chart', title: 'Ask the reports' },
        },
        {
          path: 'pool',
          component: () => import('@/stages/pool/Analyses.vue'),
          meta: { stage: 'Pool', title: 'Analyses' },
        },
        {
          path: 'pool/new',
          component: () => import('@/stages/pool/Analysis.vue'),
          meta: { stage: 'Pool', title: 'An analysis' },
        },
        {
          path: 'pool/:analysis(\\d+)',
          component: () => import('@/stages/pool/Analysis.vue'),
          meta: { stage: 'Pool', title: 'An analysis' },
        },
        {
          path: 'pool/summary',
          component: () => import('@/stages/pool/Summary.vue'),
          meta: { stage: 'Pool', title: 'Summary table' },
        },
        {
          path: 'report',
          component: () => import('@/stages/report/Flow.vue'),
          meta: { stage: 'Report', title: 'Flow' },
        },
        {
          path: 'report/history',
          component: () => import('@/stages/report/History.vue'),
          meta: { stage: 'Report', title: 'History' },
        },
      ],
    },
    { path: '/:rest(.*)*', component: () => import('@/frame/NotHere.vue'), meta: { title: 'Not here' } },
  ],
})

/** Open an address as if it were typed, where the server is there; where it is not, what is on the screen stays. */
export const openAnew = (address: string) =>
  attempt(async () => {
    await got(GET('/api/health'))
    window.location.assign(address)
  })
// a tab that stayed open while the server was renewed asks for parts that are no more
router.onError((_error, to, from) => (from.matched.length ? openAnew(to.fullPath) : undefined))
router.afterEach((to) => {
  document.title = `${to.meta.title ?? 'Kettle Sort'} · Kettle Sort`
})
