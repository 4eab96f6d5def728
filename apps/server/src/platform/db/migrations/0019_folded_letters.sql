-- Names are compared with ß as ss, and the like, from now on.
update segment s set folded = x.folded
from (
  select client_id, id, translate(replace(replace(replace(folded, 'ß', 'ss'), 'æ', 'ae'), 'œ', 'oe'), 'ıøłđ', 'iold') as folded
  from segment
) x
where
  s.client_id = x.client_id and s.id = x.id and s.folded <> x.folded
  and not exists (select from segment o where o.client_id = x.client_id and o.folded = x.folded);

update calendar c set folded = x.folded
from (
  select client_id, id, translate(replace(replace(replace(folded, 'ß', 'ss'), 'æ', 'ae'), 'œ', 'oe'), 'ıøłđ', 'iold') as folded
  from calendar
) x
where
  c.client_id = x.client_id and c.id = x.id and c.folded <> x.folded
  and not exists (select from calendar o where o.client_id = x.client_id and o.folded = x.folded);
