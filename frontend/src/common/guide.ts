// What one does on each screen, in a few sentences, and its keys; by the title of the view. The key ? shows it.
import { ref } from 'vue'

export interface Guide {
  what: string[]
  keys?: [string, string][]
}

/** Whether the guide of the present screen is open. */
export const guideOpen = ref(false)

const MOVE: [string, string] = ['↑ ↓', 'The row before, the next']
const PDF: [string, string][] = [
  [', .', 'The page before, the next'],
  ['+ −', 'Larger, smaller'],
  ['/', 'Find in the PDF; Enter is the next place'],
]
const INTO: [string, string] = ['1 – 9, 0', 'Put it into that concept of the query, or a new one']

export const GUIDES: Record<string, Guide> = {
  Reviews: {
    what: [
      'Your reviews, each with what is left for you to do. A review belongs to a team; you see those that you are a member of.',
      'Make one, or try everything with a made-up review of your own first.',
    ],
  },
  'Your account': { what: ['Your name, your password, where you are signed in. All that you decided stays yours.'] },
  'Convert a file': {
    what: [
      'A file of records in another format, without a review. It says beforehand what the other format cannot hold.',
    ],
  },
  Protocol: {
    what: [
      'What the review asks, and by which criteria a record is excluded. The criteria, in their order, are the keys at the desk.',
      'Every change after the registration is an amendment with its reason; all versions stay and can be compared.',
    ],
  },
  'Versions of the protocol': {
    what: ['Two versions side by side, with who changed what, when and why.'],
    keys: [['↑ ↓', 'The version before, the next']],
  },
  Seeds: {
    what: [
      'Studies that are known to belong. They start the order of screening, test each query, and give words for it.',
      'Name them by DOI or title, one a line; what they lack is looked up.',
    ],
  },
  Words: {
    what: [
      'Words and phrases of the seeds, beside how often the other records have them: what is special to the seeds comes first.',
      'Choose rows and put them into a concept of the query.',
    ],
    keys: [MOVE, ['Space', 'Choose the row'], INTO],
  },
  Vocabulary: {
    what: ['Headings of a thesaurus that the team loaded, with what is broader and narrower. They go into the query.'],
    keys: [MOVE, ['N', 'With its narrower headings'], ['/', 'Search the headings'], INTO],
  },
  Query: {
    what: [
      'A query is put together as concepts, lines or text, and tried on the records that are here: hits and seeds of every branch.',
      'Every change is a step that stays; keep one as a version to have it in the search log.',
    ],
    keys: [
      ['C', 'As concepts'],
      ['L', 'As lines'],
      ['T', 'As text'],
      ['G', 'The language of queries'],
    ],
  },
  Syntaxes: {
    what: ['The query in the syntax of each database, with what could not be said in it. A pasted query is read back.'],
    keys: [
      ['↑ ↓', 'The syntax before, the next'],
      ['C', 'Copy'],
    ],
  },
  Team: {
    what: ['Who works here, and as what: leads change the plan and the team, reviewers decide, observers read.'],
  },
  Searches: {
    what: [
      'The search log: each search as it was run, what the source announced, and what came. PRISMA-S asks for all of it.',
      'Drop exported files anywhere on this page: each becomes a row of a sheet, and all are taken in together.',
    ],
    keys: [
      ['U', 'Add files'],
      ['N', 'A new search'],
      ['F', 'Filter the log'],
    ],
  },
  Files: {
    what: ['Every file that was uploaded, what was read in it, and whether it is taken in. It stays as it came.'],
  },
  'Reading a file': {
    what: [
      'The file line by line beside what was understood. Nothing is in the review before you take it in.',
      'When a field is wrong, say what it is; when nothing fits, make a recipe.',
    ],
    keys: [
      ['↑ ↓', 'The record before, the next'],
      ['L', 'The next that needs a look'],
    ],
  },
  'Recipe of a file': {
    what: [
      'How a file of an unknown form is read: where a record begins, what each label means. The team keeps it for next time.',
    ],
  },
  Recipes: {
    what: ['Recipes of the team, and which files they read. They can be saved as a file and loaded elsewhere.'],
  },
  Narrowing: {
    what: [
      'A rule sets aside, before anybody screens, what cannot belong. Its records are counted in the flow as automation, under its name.',
      'It is tried first, spares seeds, and can be taken back as a whole or record by record.',
    ],
  },
  Gaps: {
    what: ['What records lack, looked up in connected catalogues and by DOI. Each find is shown before it is taken.'],
    keys: [MOVE, ['Enter', 'Take'], ['Backspace', 'Leave']],
  },
  'One record': {
    what: ['A record that no file brings: by its DOI, or typed. It enters as a search of its own kind.'],
  },
  Records: {
    what: [
      'Every record of the review: find, filter, label, set aside, export. Each list has its address and can be sent to a colleague.',
      'From some that are picked: those most like them come first at the desk, or more of their kind come from a connected catalogue.',
    ],
    keys: [
      ['/', 'Search'],
      ['F', 'Filter'],
      ['↑ ↓', 'Move; with Shift it picks'],
      ['Space, X', 'Pick'],
      ['A', 'Pick all that are shown'],
      ['Enter', 'Open'],
      ['T', 'Label what is picked'],
      ['S', 'Set it aside'],
      ['E', 'Export'],
      ['Esc', 'Pick nothing'],
    ],
  },
  'A record': {
    what: ['A record with all its copies, where each value came from, and everything that was decided on it.'],
  },
  'To decide': {
    what: [
      'Pairs of which the weights do not tell whether they are copies. Nothing is lost by saying “different”: both stay.',
      '“Other report” leaves them apart and links them, so that they are charted as one study.',
    ],
    keys: [
      ['S', 'Same'],
      ['D', 'Different'],
      ['O', 'Other report of the study'],
      ['L', 'Later'],
      ['Backspace', 'Take the last answer back'],
      ['↑ ↓', 'The pair before, the next'],
      ['R', 'The files’ own text'],
      ['G', 'The whole group'],
    ],
  },
  Groups: {
    what: ['Copies that are one record, why each was joined, and whose value is kept. Every joining can be undone.'],
  },
  'Rule of matching': {
    what: [
      'From which weight pairs are joined or asked about, and the team’s own passes. A change is tried in a dry run first.',
    ],
  },
  'Dry runs': {
    what: [
      'What a rule would change on the whole review: joined, parted, asked. Applied in one stroke, undone in one.',
    ],
    keys: [MOVE],
  },
  'Checked by hand': {
    what: [
      'A random sample of joined pairs, or of those left apart, looked at by a person: the rate of errors with its interval.',
    ],
    keys: [MOVE, ['S', 'Same'], ['D', 'Different'], ['R', 'The files’ own text']],
  },
  Answers: { what: ['What people answered about pairs, each to be taken back, and what two answered differently.'] },
  'Late copies': { what: ['Copies that came after their record was decided. The decision holds for them too.'] },
  'First pass': {
    what: [
      'One record at a time, the closest to what is known to belong first. Exclude for the first criterion that it fails.',
      'Underlined words speak for it (a line) or against it (a wave). The order learns from each decision.',
    ],
    keys: [
      ['Enter', 'Include'],
      ['1 – 9', 'Exclude for that criterion'],
      ['0', 'Unsure: seen, still to be settled'],
      ['Backspace or *', 'Take your last decision back: with *, all is on a number pad, for one hand'],
      ['↑ ↓', 'The record before, the next in the queue'],
      ['N', 'Note; Enter or Esc leaves it'],
      ['W', 'The team’s own words to underline'],
      ['+ −', 'Larger text, smaller'],
      ['F', 'Filter'],
    ],
  },
  'Full texts': {
    what: [
      'What became of each full text that is sought: obtained with its PDF, or not, and why. PRISMA counts both.',
      'Drop all PDFs that you have at once: each is matched to its record by DOI, title and first page; what is not sure waits to be placed.',
    ],
  },
  'PDFs to place': {
    what: [
      'PDFs that came in a heap, each beside the records that it may belong to, with what speaks for each. What was sure is attached already.',
      'A correction, a letter or a second file is asked, never guessed. What is dropped or attached can be undone.',
    ],
    keys: [['↑ ↓', 'The PDF before, the next'], ['1 – 5', 'Attach it to that record'], ['D', 'Drop it'], ...PDF],
  },
  Differences: {
    what: [
      'Records on which readers differ, both verdicts side by side with reasons and notes. Include or exclude settles one, and the next follows.',
      'What keeps coming back is a criterion that two people read in two ways: reword it under Plan.',
    ],
    keys: [
      ['↑ ↓', 'The record before, the next'],
      ['Enter', 'Include'],
      ['1 – 9', 'Exclude for that criterion'],
      ['Backspace', 'Take back what you settled last'],
    ],
  },
  'Groups that are alike': {
    what: [
      'Undecided records in groups that use the same words, the group nearest to the seeds first. The same settings and records give the same groups.',
      'A far group is set aside as a whole once you have looked at its members that are nearest to the seeds; then group again what is left. Records without an abstract are never set aside so.',
    ],
    keys: [
      ['↑ ↓', 'The group before, the next'],
      ['A', 'Set the open group aside'],
    ],
  },
  Passes: {
    what: [
      'How many people read each record, independently and blind, and what happens where they differ. Changing it keeps every decision and says first what becomes open or settled.',
      'Records are shared out among people, by part, as a pilot that all read, or with some that one person more reads.',
    ],
  },
  Agreement: {
    what: [
      'How far readers agree on what they read independently: for each pair, for each reason, and over time. A count opens its records.',
    ],
  },
  'A list as a spreadsheet': {
    what: [
      'A list goes out as a workbook with columns for decision, reason and note, and comes back in with them.',
      'What it would change is shown before it does; a row that says nothing known is told by its number.',
    ],
  },
  'Where things stand': {
    what: [
      'How many records are in which state, how fast you screen, and when what is left will be done. The pace of others is for them and a lead to know.',
    ],
  },
  'What is left': {
    what: [
      'How many records that belong are still out there, with the interval and what must hold for it.',
      'A random sample of the undecided settles what no order can tell. Stopping sets the rest aside, is counted in the flow as automation, and can be undone.',
    ],
  },
  'Evidence table': {
    what: [
      'Studies in rows, items of the codebook in columns; arms, outcomes and time points as columns, or as rows below their study. It works as a spreadsheet does.',
      'Beside it the report, with the words lit that a value comes from. Words that you mark in it go into the cell in focus, with page and quote.',
      'A value in italics with a question mark is proposed and not in the table yet. One with ½ is your reading of what two read; ≠ says that the other one read something else.',
    ],
    keys: [
      ['Arrows, Tab', 'Move'],
      ['Enter, F2', 'Edit, and down'],
      ['Esc', 'Leave the value as it was'],
      ['Shift + arrows', 'Mark a block'],
      ['Ctrl C, X, V', 'Copy, cut, paste from and to a spreadsheet'],
      ['Ctrl D', 'Fill down'],
      ['Ctrl Z, Ctrl Y', 'Undo and do again what you wrote'],
      ['Ctrl F', 'Find in the table'],
      ['Ctrl Enter', 'Take what is proposed'],
      ['Alt ↓', 'The column’s menu: sort, filter, pin, hide, move'],
      ['M', 'Marked words into the cell'],
      [', .', 'Page before, next page'],
    ],
  },
  Proposals: {
    what: [
      'Reports are read for the items of the codebook. Every value that one states is proposed, with the words that it comes from and how sure that is. Nothing enters the table before you accept it.',
      'How sure is worked out from signs, such as how near the item’s words stand; your answers move their weights.',
      'If the server knows a language model and a lead lets it be asked, what it proposes stands beside these, marked; what it does not quote word for word is refused.',
    ],
    keys: [
      ['Enter', 'Accept'],
      ['1 to 5', 'Look at one of several'],
      ['C', 'Correct it'],
      ['R', 'None of it is right'],
      ['Backspace', 'Take the last answer back'],
      ['↑ ↓', 'Move'],
    ],
  },
  'Two extractors': {
    what: [
      'Which values two read, each for themselves: all, or some items or studies. A person and the proposals can be the two as well.',
      'What both read the same enters the table by itself; what differs is settled. Agreement is over what both had read when they were first compared.',
    ],
  },
  'Read differently': {
    what: [
      'What two read of a value, side by side, each with its quote; the report shows the quote that is lit. What is settled enters the table, and can be taken back.',
    ],
    keys: [
      ['1, 2', 'The first one, the second one stands'],
      ['E', 'Something else stands'],
      ['← →', 'Light the quote of the first, the second'],
      ['↑ ↓', 'Move between values'],
      ['Backspace', 'Take back how it was settled'],
    ],
  },
  Appraisal: {
    what: [
      'How far each study can be trusted for this question, by the team’s own form: domains, each with signalling questions. The fuller a sign the better the judgement.',
      'An answer needs the words of the report that support it, or that there are none. The team’s rules propose a judgement; a person gives it, with a reason where it is another.',
    ],
    keys: [
      ['1 … 9', 'Answer the question in focus'],
      ['M', 'The words that are marked support it'],
      ['0', 'No words support it'],
      ['Enter', 'Judge as the team’s rule proposes'],
      ['↑ ↓', 'Move between questions'],
      ['← →', 'Move between domains'],
      ['N, P', 'The next study, the one before'],
    ],
  },
  'Form of appraisal': {
    what: [
      'What the team appraises, in its own words: the judgements, the answers, domains with their questions, and rules that lead from answers to a judgement. No published instrument comes with it; a form can be read from a file and saved as one.',
      'A change that touches judgements is shown before it is saved; nothing is lost by it.',
    ],
  },
  Codebook: {
    what: [
      'What is extracted from each study, of which kind, once or for each arm, outcome or time point, and how to read it from a report.',
      'An item that has values is never changed silently: what becomes of them is shown before it is saved.',
    ],
    keys: [
      ['↑ ↓', 'Move in the outline'],
      ['Alt ↑, Alt ↓', 'Change the order'],
    ],
  },
  Concepts: {
    what: [
      'The concepts of the codebook. Each band is as thick as there are studies that state something under its concept; a concept opens them, with their abstracts and the searches that found them.',
    ],
  },
  'Ask the reports': {
    what: [
      'A question in plain words over the included reports. Answers are passages as they stand there, with their page; the score says how many of the question’s words a passage holds, and how near its sense is.',
    ],
    keys: [['↑ ↓', 'Move between passages']],
  },
  Analyses: {
    what: [
      'Studies pooled from the evidence table as it is now, each analysis with what it comes to. A value that changes there changes them.',
    ],
  },
  'An analysis': {
    what: [
      'Which numbers are pooled and how, the forest plot, and a closer look: the funnel, what explains the differences, who carries the whole, how well τ² is known, every model. Several treatments are compared at once, directly and around. A study in the plot opens its numbers in the evidence table, and a number its quote.',
      'A study can be left out for a look; what the team leaves out for good is kept, and drawn hollow.',
    ],
    keys: [
      ['↑ ↓', 'Move between studies'],
      ['Space', 'Leave a study out for a look, or put it back'],
    ],
  },
  'Summary table': {
    what: [
      'One row for each outcome that the report tells of: studies, people, the effect, what it means for a thousand at a baseline risk, and how sure the team is, with its reasons. Figures are those of the analyses as they are now.',
      'The words of certainty and the domains of doubt are the team’s own. What is typed is kept when its field is left, and every change has a way back.',
    ],
  },
  Flow: {
    what: [
      'The PRISMA flow. Each figure opens the records that it counts, and the sums are checked against the records.',
    ],
    keys: [['D', 'Download']],
  },
  History: { what: ['Who did what, when, from what, to what. Nothing is ever taken out of it.'] },
}
GUIDES['Second pass'] = {
  what: [
    ...GUIDES['First pass']!.what,
    'The PDF stands in place of the abstract where one is attached, with the same words underlined.',
  ],
  keys: [...(GUIDES['First pass']!.keys ?? []), ['T', 'The full text, or the abstract'], ...PDF],
}

export const EVERYWHERE: [string, string][] = [
  ['?', 'This guide'],
  ['Tab', 'The next thing that can be used'],
]

/** What comes first at a stage of a review that is empty, and what the made-up review did there. */
export const FIRST: Record<string, { first: string; demo: string; to: string; go: string }> = {
  Plan: {
    first: 'Write down the question, its elements and the criteria by which a record is excluded.',
    demo: '“Does insulating beehives help honeybee colonies survive the winter?” Four elements (PICO); five criteria, the first “Not honeybees”.',
    to: 'plan',
    go: 'To the protocol',
  },
  Gather: {
    first: 'Run your searches where you always do, export everything, and drop the files here, all at once.',
    demo: 'Seven files of four databases, a register and one round of citation chasing: 1,306 records, six fewer than announced, which the log says.',
    to: 'gather',
    go: 'To the search log',
  },
  Match: {
    first: 'Nothing to do: copies are found as soon as files are taken in. What is doubtful waits here for a person.',
    demo: 'Over four hundred copies joined, and about ten pairs asked: a preprint and its article, a talk and its paper, a translation.',
    to: 'gather',
    go: 'To the search log',
  },
  Screen: {
    first: 'Gather records and name a few studies that belong as seeds; then decide one by one, the closest first.',
    demo: 'From six seeds, three people decided on over five hundred records; each says why it stands at its place.',
    to: 'plan/seeds',
    go: 'To the seeds',
  },
  Chart: {
    first:
      'Write the codebook: what to extract from each study, of which kind. Studies appear when their full text is included.',
    demo: 'Nine items under five concepts, among them “Survived” as events of a total for each arm; about a third of the values waits as proposals.',
    to: 'chart/codebook',
    go: 'To the codebook',
  },
  Pool: {
    first:
      'Choose an item that is charted for each arm, and which arms stand against which: the studies are pooled as they are charted.',
    demo: 'How many colonies survived, wrapped against plain, and how much food they used; in groups by design, with three ways to winter compared at once.',
    to: 'pool/new',
    go: 'New analysis',
  },
  Report: {
    first: 'Nothing to do: the flow draws itself from what the team does, and every figure opens its records.',
    demo: 'All figures from the sources to the studies, as bands or as the standard’s boxes, to download in four formats.',
    to: 'gather',
    go: 'To the search log',
  },
}
