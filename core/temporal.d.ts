// Core uses the standard's global `Temporal`. A host without it loads the polyfill before core is first called.
/// <reference types="temporal-polyfill/global" />
