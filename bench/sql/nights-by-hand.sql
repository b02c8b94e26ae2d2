-- Staging and the star join with the checks that an expert would not do without.
set memory_limit = '${memory}';
create temp table staged as
select * from read_csv('${nights}', auto_detect = false, header = true, store_rejects = true, columns = {stay_no: 'bigint', hut_no: 'bigint',
    guest_no: 'bigint', tour_no: 'bigint', night_on: 'date', guests: 'integer', paid: 'decimal(10,2)'});
-- A grain that stands twice would count a stay twice.
select case when count(*) > 0 then error('a stay stands twice') end
from (select stay_no from staged group by stay_no having count(*) > 1) as twice;
begin;
create table fact_night_stay as
select s.stay_no, coalesce(h.hut_key, -1) as hut_key, coalesce(g.guest_key, -1) as guest_key,
  coalesce(t.tour_key, -1) as tour_key, coalesce(n.calendar_key, -1) as night_key, s.guests, s.paid,
  now()::timestamp as inserted_at, now()::timestamp as updated_at, cast(3 as bigint) as inserted_by, cast(3 as bigint) as updated_by
from staged as s
left join dim_hut as h on h.hut_no = s.hut_no and s.night_on >= h.valid_from and s.night_on < h.valid_to
left join dim_guest as g on g.guest_no = s.guest_no and g.is_current
left join dim_tour as t on t.tour_no = s.tour_no and t.is_current
left join dim_calendar as n on n.day = s.night_on;
-- A lookup that finds two versions would count a stay twice.
select case when (select count(*) from fact_night_stay) <> (select count(*) from staged)
  then error('a lookup finds two versions') end;
commit;
