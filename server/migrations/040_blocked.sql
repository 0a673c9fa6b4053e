-- Up Migration
-- What is reserved of all places in a range is found by what is blocked, which holds the span itself: a day of 600 places was
-- read by going through the whole of the other index, 102 ms instead of 77.
create index reservation_blocked on reservation using gist (blocked) where (state <> 'released');
drop index reservation_span;
