export {
  addClosures,
  barredFrom,
  endClosure,
  likeOnes,
  lockRules,
  placeOfSteward,
  readResources,
  resourceIds,
  writeRules,
} from './store.ts'
