package dev.zeitkammer.engine.spark;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.engine.WarehouseException;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;

/** What a transaction that is taken back takes away: what its own statements made, and nothing of others; without a cluster. */
class MadeDefinitionsTest {

    private static final String HUTS = "`dw`.`huts`.`dim_hut`";
    private static final String ENTRIES = HUTS + ".metadata_log_entries";

    private final StagedCluster cluster = new StagedCluster();
    private final MadeDefinitions made = new MadeDefinitions(cluster.warehouse());

    private static List<List<@Nullable Object>> file(String name) {
        return List.of(List.of(name));
    }

    @Test
    void whatWasMadeIsTakenAwayTheLastFirst() {
        cluster.answer(ENTRIES, file("00000-a.metadata.json"));
        made.begin();
        made.made("create table " + HUTS + " (\n  `code` string\n) using iceberg");
        made.made("alter table `dw`.`huts`.`dim_guest` add column `na``me` string");
        made.made("alter table `dw`.`huts`.`dim_guest` rename column `beds` to `places`");
        made.made("comment on table " + HUTS + " is 'x'");
        made.takeBack();
        assertThat(cluster.executed)
                .containsExactly(
                        "alter table `dw`.`huts`.`dim_guest` rename column `places` to `beds`",
                        "alter table `dw`.`huts`.`dim_guest` drop column `na``me`",
                        "drop table " + HUTS);
        made.takeBack();
        assertThat(cluster.executed).as("once").hasSize(3);
    }

    @Test
    void aTableOfTheSameNameThatAnotherMadeStays() {
        cluster.answer(ENTRIES, file("00000-a.metadata.json"));
        made.begin();
        made.made("create table " + HUTS + " using iceberg as\nselect 1");
        cluster.answer(ENTRIES, file("00000-b.metadata.json"));
        made.takeBack();
        assertThat(cluster.executed).isEmpty();
    }

    @Test
    void whatOthersTookAwayMeanwhileDoesNotKeepTheRest() {
        made.begin();
        made.made("alter table " + HUTS + " add column `x` int");
        made.made("alter table " + HUTS + " add column `y` int");
        cluster.refuse("drop column `y`", new WarehouseException("there is no column y", null));
        made.takeBack();
        assertThat(cluster.executed("drop column")).hasSize(2);
    }

    @Test
    void whatMayHaveStoodAndWhatIsCommittedStays() {
        made.made("create table " + HUTS + " (`code` string)");
        made.begin();
        made.made("create table if not exists " + HUTS + " (`code` string)");
        made.made("create or replace table " + HUTS + " using iceberg as select 1");
        made.takeBack();
        made.begin();
        made.made("alter table " + HUTS + " add column `x` int");
        made.forget();
        made.takeBack();
        assertThat(cluster.executed).isEmpty();
    }
}
