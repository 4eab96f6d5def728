-- How many comments under the post were answered in public: the wordings are said in turn.
alter table post add column answered int not null default 0;
grant update (answered) on post to dartloop_lane;
