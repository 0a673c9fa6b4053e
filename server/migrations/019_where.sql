-- Up Migration
-- Where something is, is composed of the places that are reserved for it and of what else was said. What was copied from
-- reserved places into the text is taken out of it: it would be said twice, and go on being said when the place changes.
create function pg_temp.without(said text, places text[]) returns text language sql immutable as $$
  select coalesce(string_agg(part, '; ' order by n), '')
    from unnest(string_to_array(said, '; ')) with ordinality u(part, n) where part <> all(places)
$$;

create temp table reserved on commit drop as
  select o.entry_id, o.recurrence, array_agg(s.name) || array_agg(s.name || ', ' || t.name) as places
    from reservation r join occurrence o on o.id = r.occurrence_id
    join resource s on s.id = r.resource_id join site t on t.id = s.site_id
   where r.state <> 'released' group by o.entry_id, o.recurrence;

update override v set place = nullif(pg_temp.without(v.place, r.places), '')
  from reserved r where r.entry_id = v.entry_id and r.recurrence = v.recurrence and v.place <> '';
update entry e set place = pg_temp.without(e.place, r.places)
  from (select entry_id, array_agg(place) as places from reserved, unnest(places) place group by entry_id) r
 where r.entry_id = e.id and e.place <> '';
-- A date that differed in its place alone differs in nothing any more.
delete from override where not cancelled and starts is null and minutes is null and title is null and place is null
  and note is null and shows is null and private is null;
