const LONGEST = 60

/** The part of an address that a name makes: "Lab visit, Innsbruck" is lab-visit-innsbruck. */
export const slugOf = (name: string): string =>
  name
    .toLowerCase()
    .replace(/ß/g, 'ss')
    .replace(/ø/g, 'o')
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/[^a-z0-9]+/g, '-')
    .slice(0, LONGEST)
    .replace(/^-+|-+$/g, '') || 'visit'
