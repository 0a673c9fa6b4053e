-- Up Migration
-- Keys of repeated requests are kept as hashes from now on, and no answer holds a secret: those of before are forgotten. A
-- request of that hour that is sent again is carried out anew, as after a week.
delete from repeated_request;
