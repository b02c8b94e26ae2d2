-- The least on a server with a table of its own: join every row to its member, compare every attribute, write nothing.
set jit = off;
set work_mem = '128MB';
select count(*)
from office.guests as s
left join dim_guest as d on d.guest_no = s.guest_no and d.is_current
where d.guest_key is null
  or s.guest_name is distinct from d.guest_name or s.email is distinct from d.email or s.phone is distinct from
    d.phone or s.street is distinct from d.street or s.nights is distinct from d.nights or s.rating is distinct
    from d.rating or s.town is distinct from d.town or s.country is distinct from d.country or s.membership is
    distinct from d.membership or s.tours is distinct from d.tours;
