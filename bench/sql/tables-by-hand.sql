-- Ten small next loads in one transaction, as an expert would write each of them.
set memory_limit = '${memory}';
begin;
${statements}
commit;
