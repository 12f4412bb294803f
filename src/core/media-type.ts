/** A type of media, as `image/jpeg` (RFC 6838, section 4.2), with the top-level types that are registered. */
export const MEDIA_TYPE = /^(application|audio|font|haptics|image|message|model|multipart|text|video)\/[a-z0-9][a-z0-9!#$&^_.+-]*$/i;
