-- Up Migration
-- The time that somebody has set aside for their to-dos is asked for with every look at them. Without an index of its own either
-- all that they have ever entered was gone through for it, or all that anybody has set aside.

create index entry_owner_todo on entry (owner_id) where todo_id is not null;
