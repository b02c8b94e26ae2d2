package dev.zeitkammer.definition;

import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.SqlType;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * What is waiting to be loaded.
 *
 * @param origin where its rows are
 * @param columns the columns whose types inference should not decide
 * @param where SQL over the staged columns; rows for which it does not hold are not staged
 * @param trim whether spaces around texts are taken off and empty texts become null
 * @param extract whether a delivery holds everything or only what changed
 * @param required whether a missing file is an error
 * @param newer by which column only what is new is staged
 * @param retain whether the staged rows of the last load stay in the warehouse as a table
 * @param keep how it remembers the latest row of each key; empty: a delivery is all there is
 * @param assertions what is asserted of its staged rows
 */
public record Input(
        Word name,
        Origin origin,
        List<ListedColumn> columns,
        Optional<Word> where,
        boolean trim,
        Extract extract,
        boolean required,
        Optional<Newer> newer,
        boolean retain,
        Optional<Keep> keep,
        List<Assertion> assertions) {

    /** That of its name: the one that the machine would make of so many parts takes longer than to read a definition. */
    @Override
    public int hashCode() {
        return name.text().hashCode();
    }

    /** The inputs that it is made of, in their order; none of files and tables. */
    public List<Input> parts() {
        if (origin instanceof Join join) {
            return Stream.concat(Stream.of(join.from()), join.with().stream().map(Joined::input))
                    .toList();
        }
        return origin instanceof Query query ? query.inputs() : List.of();
    }

    /** Where the rows of an input are. */
    public sealed interface Origin permits Files, Given, Table, Query, Join {}

    /**
     * Files of one delivery.
     *
     * @param pattern a path or glob, relative to the project; {@code {date}} stands for the load date
     * @param csv the form of delimited files; other kinds of files have none
     * @param ownOnly whether files beyond the project's folder are refused, since nobody has vouched for the project
     */
    public record Files(Word pattern, CsvForm csv, boolean ownOnly) implements Origin {

        public Files(Word pattern, CsvForm csv) {
            this(pattern, csv, false);
        }
    }

    /**
     * Files that were named when the load was asked for.
     *
     * @param csv the form of delimited ones
     */
    public record Given(List<Path> files, CsvForm csv) implements Origin {

        public Given {
            files = List.copyOf(files);
        }
    }

    /**
     * A table or view.
     *
     * @param name with its schema where it needs one
     * @param database the operational database that holds it; empty: the warehouse
     */
    public record Table(Word name, Optional<DatabaseAddress> database) implements Origin {}

    /**
     * The rows of a query.
     *
     * @param database the operational database that runs it; empty: the warehouse
     * @param inputs the inputs that it reads as tables of their names
     */
    public record Query(Word sql, Optional<DatabaseAddress> database, List<Input> inputs) implements Origin {

        public Query {
            inputs = List.copyOf(inputs);
        }
    }

    /** A join of other inputs. */
    public record Join(Input from, List<Joined> with) implements Origin {

        public Join {
            with = List.copyOf(with);
        }
    }

    /**
     * An input that is joined to those before it.
     *
     * @param optional whether rows without a partner stay
     * @param withoutPartner what becomes of them where they do not
     */
    public record Joined(Input input, List<Match> by, boolean optional, WithoutPartner withoutPartner) {

        public Joined {
            by = List.copyOf(by);
        }
    }

    /** What becomes of a row whose partner is not there. */
    public enum WithoutPartner {
        SET_ASIDE,
        WAIT,
        LEAVE_OUT
    }

    /**
     * A column of an earlier input of a join that equals a column of the joined one.
     *
     * @param column of the first input, an expression over its columns too
     */
    public record Match(Input earlier, Word column, Word joinedColumn) {}

    /**
     * Only rows beyond the greatest value of a running column that has been loaded are staged.
     *
     * @param column a staged column of numbers, dates or timestamps
     * @param overlap how far before that value to read again: a number, or a time such as 2 days
     */
    public record Newer(Word column, Optional<Word> overlap) {}

    /** What a delivery holds. */
    public enum Extract {
        CHANGES,
        FULL
    }

    /** A column that the input lists with its type. */
    public record ListedColumn(Word name, SqlType type) {}

    public Input {
        columns = List.copyOf(columns);
        assertions = List.copyOf(assertions);
    }

    /** What the types that its deliveries decide are remembered by: an inline input of a fact may have a dimension's name. */
    public String remembered() {
        return name.place().file().startsWith("facts/") ? "fact " + name : name.text();
    }

    /** The form of its delimited files; the standard one where there are none. */
    public CsvForm csv() {
        if (origin instanceof Given given) {
            return given.csv();
        }
        return origin instanceof Files files ? files.csv() : CsvForm.STANDARD;
    }

    /** The same rows out of files: a part of them, read whatever was loaded before, of which nothing is counted or retained. */
    public Input of(List<Path> files) {
        return new Input(
                name,
                new Given(files, csv()),
                columns,
                where,
                trim,
                Extract.CHANGES,
                true,
                Optional.empty(),
                false,
                Optional.empty(),
                assertions.stream()
                        .filter(assertion -> !assertion.isOfNumbers())
                        .toList());
    }
}
