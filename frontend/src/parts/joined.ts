const AND = new Intl.ListFormat('en-GB', { type: 'conjunction' })

/** Names as a sentence has them: a, b and c. */
export const andJoined = (names: readonly string[]): string => AND.format(names)
