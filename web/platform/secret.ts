const BYTES = 32

/** The secret of a link, made here so that the server never has to keep it: 32 random bytes in base64url (RFC 4648 section 5). */
export const newSecret = (): string => {
  const bytes = crypto.getRandomValues(new Uint8Array(BYTES))
  return btoa(String.fromCharCode(...bytes))
    .replaceAll('+', '-')
    .replaceAll('/', '_')
    .replaceAll('=', '')
}
