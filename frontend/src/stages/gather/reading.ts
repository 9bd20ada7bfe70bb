// How a file is read: the fields there are, and what a person changed.
export const FIELD_NAMES: Record<string, string> = {
  title: 'Title',
  authors: 'Authors',
  year: 'Year',
  date: 'Date',
  journal: 'Journal',
  journal_short: 'Journal, short',
  volume: 'Volume',
  issue: 'Issue',
  pages: 'Pages',
  first_page: 'First page',
  last_page: 'Last page',
  doi: 'DOI',
  accession: 'Accession',
  issn: 'ISSN',
  abstract: 'Abstract',
  language: 'Language',
  keywords: 'Descriptors',
  kind: 'Kind',
  url: 'Address',
  publisher: 'Publisher',
  references: 'Cites',
  note: 'Note',
  short_authors: 'Authors, short',
  group_authors: 'Authors, groups',
  identifiers: 'Identifiers',
  kinds: 'Kinds',
}
export const FIELD_CHOICES = [
  { value: '', title: 'kept, not used' },
  ...Object.entries(FIELD_NAMES).map(([value, title]) => ({ value, title })),
]
export const FORMAT_NAMES: Record<string, string> = {
  ris: 'RIS',
  nbib: 'NBIB',
  bibtex: 'BibTeX',
  csv: 'CSV',
  tsv: 'TSV',
  xlsx: 'XLSX',
  ods: 'ODS',
  xls: 'XLS',
  medline: 'MEDLINE XML',
  csljson: 'CSL-JSON',
  refer: 'Refer',
  recipe: 'a reading recipe',
  identifiers: 'a list of identifiers',
  zip: 'ZIP',
  catalogue: 'a catalogue’s records',
}
export const CERTAINTY: Record<string, string> = {
  sure: 'sure',
  likely: 'by its looks',
  guess: 'worked out from the file, please check',
}
export const ENCODINGS = [
  { value: '', title: 'Find out' },
  { value: 'utf-8', title: 'UTF-8' },
  { value: 'utf-16', title: 'UTF-16' },
  { value: 'cp1252', title: 'Windows-1252' },
  { value: 'latin-1', title: 'Latin-1' },
  { value: 'cp1250', title: 'Windows-1250' },
  { value: 'cp1251', title: 'Windows-1251' },
  { value: 'mac-roman', title: 'Mac Roman' },
  { value: 'gb18030', title: 'GB 18030' },
  { value: 'shift_jis', title: 'Shift JIS' },
]
const TEXT_FORMATS = ['ris', 'nbib', 'bibtex', 'csv', 'tsv', 'medline', 'csljson', 'refer', 'recipe', 'identifiers']
export const FORMAT_CHOICES = [
  { value: '', title: 'Find out' },
  ...TEXT_FORMATS.map((value) => ({ value, title: FORMAT_NAMES[value]! })),
]
