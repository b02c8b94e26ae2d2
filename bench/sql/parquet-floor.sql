-- The star join alone: no check, and the fact as the file has it.
set memory_limit = '${memory}';
create table fact_night_stay as
select s.stay_no, coalesce(h.hut_key, -1) as hut_key, coalesce(g.guest_key, -1) as guest_key,
  coalesce(t.tour_key, -1) as tour_key, coalesce(n.calendar_key, -1) as night_key, s.guests, s.paid,
  now()::timestamp as inserted_at, now()::timestamp as updated_at, cast(3 as bigint) as inserted_by, cast(3 as bigint) as updated_by
from read_parquet('${nights}') as s
left join dim_hut as h on h.hut_no = s.hut_no and s.night_on >= h.valid_from and s.night_on < h.valid_to
left join dim_guest as g on g.guest_no = s.guest_no and g.is_current
left join dim_tour as t on t.tour_no = s.tour_no and t.is_current
left join dim_calendar as n on n.day = s.night_on;
