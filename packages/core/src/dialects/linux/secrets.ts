import { namesSecrets } from '../../syntax/secret-words.ts'

/** Rules and files of a gateway hold secrets in comments and settings, under words that go with them anywhere. */
export const maybeSecret = namesSecrets('')
