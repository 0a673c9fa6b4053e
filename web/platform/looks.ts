/** Whether a text could be an e-mail address: enough to help who types; the server looks properly. */
export const looksLikeAddress = (text: string): boolean => /^[^\s@]+@[^\s@]+\.[^\s@.]{2,}$/.test(text.trim())
