-- Up Migration
-- A page that was taken away stays for what was taken on it, and is no page of anybody's any more.
alter table visit_page add column gone_at timestamptz;
