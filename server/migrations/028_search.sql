-- Up Migration
-- What is looked for by its words: PostgreSQL's own text search, without endings of any language (names of people and places
-- are most of what there is), without accents, by the beginnings of words. Kept with each row, since it is asked for at
-- every letter that is typed.
create extension if not exists pg_trgm;
create extension if not exists unaccent;

-- Text as it is compared. The dictionary is named, so that the answer can be kept in an index.
create function plain(words text) returns text
  language sql immutable strict parallel safe
  as $$ select lower(unaccent('unaccent'::regdictionary, words)) $$;

-- A headline (title, then place) is what some may read who may not read the rest: weights tell the two apart.
create function words_of(title text, place text, note text) returns tsvector
  language sql immutable parallel safe
  as $$ select setweight(to_tsvector('simple'::regconfig, plain(coalesce(title, ''))), 'A')
            || setweight(to_tsvector('simple'::regconfig, plain(coalesce(place, ''))), 'B')
            || setweight(to_tsvector('simple'::regconfig, plain(left(coalesce(note, ''), 20000))), 'C') $$;

alter table entry add column words tsvector generated always as (words_of(title, place, note)) stored;
create index entry_words on entry using gin (words);
alter table override add column words tsvector generated always as (words_of(title, place, note)) stored;

-- Somebody by their name, or by the parts of their address.
create function names_of(name text, address text) returns tsvector
  language sql immutable parallel safe
  as $$ select to_tsvector('simple'::regconfig,
                           plain(coalesce(name, '') || ' ' || translate(coalesce(address, ''), '@.-_', '    '))) $$;

create index person_words on person using gin (names_of(name, address));
create index person_alike on person using gin (plain(name) gin_trgm_ops);
