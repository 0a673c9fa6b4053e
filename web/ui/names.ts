/** "Serac", "Serac and Col", "Serac, Col and Firn". */
export const namesInWords = (names: readonly string[]): string =>
  names.length < 2 ? (names[0] ?? '') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`
