/** Sources: what each thing is that was given. */
export { isUnder, sourceSchema, sourcesOf, withKnown, type KnownOfSources, type Source } from './sources';
