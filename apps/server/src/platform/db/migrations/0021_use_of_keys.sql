-- The use of a key stands in the audit once an hour, and whenever it comes from elsewhere.
alter table api_key add noted_at timestamptz, add noted_from text;
