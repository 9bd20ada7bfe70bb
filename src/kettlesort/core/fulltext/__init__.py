"""Full texts as a person reads them: pages, lines, tables, sentences, each with its place."""
