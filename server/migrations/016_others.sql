-- Whether others take part in an entry is asked of every date of a year. Most entries are one person's own, so an index
-- of those who were invited is small, and answers without a look at the rows.
create index participant_others on participant (entry_id) where not organizer;
