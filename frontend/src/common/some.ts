// Small deeds on lists and data.

/** A list with something put into it, or taken out if it was there. */
export const toggled = <T>(some: readonly T[], one: T): T[] =>
  some.includes(one) ? some.filter((each) => each !== one) : [...some, one]

/** A copy of plain data that shares nothing with it. */
export const copyOf = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T
