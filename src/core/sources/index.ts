/** Sources: what each thing is that was given. */
export { sourceSchema, sourcesOf, withKnown, type KnownOfSources, type Source } from './sources';
