// npm run build: the web application and the server.
import { build } from './lib/build.mjs'

process.exit(build() ? 0 : 1)
