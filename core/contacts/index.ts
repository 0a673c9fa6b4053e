export * from './vcard.ts'
