package dev.zeitkammer.load;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.ExtraStep;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.lookup.OthersTables;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;

/**
 * Loads dimensions side by side, each over a connection of its own and after those that it looks up; then everything else one
 * by one, since facts may add members to dimensions.
 */
final class SideBySide {

    private final LoadContext context;
    private final Set<String> notLoaded = ConcurrentHashMap.newKeySet();

    SideBySide(LoadContext context) {
        this.context = new LoadContext(
                context.project(),
                context.warehouse(),
                new OneAtATime(context.listener()),
                context.request(),
                context.stamp(),
                context.extra());
    }

    /** The entries, in order of the definitions. */
    List<TableEntry> load(List<Definition> selected) {
        List<Definition> dimensions =
                selected.stream().filter(Dimension.class::isInstance).toList();
        TableLoading loading = new TableLoading(context);
        List<Definition> facts =
                selected.stream().filter(Fact.class::isInstance).toList();
        List<TableEntry> entries =
                new ArrayList<>(loading.phase(ExtraStep.DIMENSIONS, dimensions, () -> dimensions(dimensions)));
        entries.addAll(loading.phase(
                ExtraStep.FACTS,
                facts,
                () -> facts.stream().map(fact -> loaded(loading, fact)).toList()));
        return entries;
    }

    private List<TableEntry> dimensions(List<Definition> dimensions) {
        ExecutorService workers = Executors.newFixedThreadPool(context.request().jobs());
        try {
            Map<String, CompletableFuture<TableEntry>> underway = new LinkedHashMap<>();
            for (Definition definition : dimensions) {
                CompletableFuture<?>[] before = context.project().before(definition).stream()
                        .map(underway::get)
                        .filter(known -> known != null)
                        .toArray(CompletableFuture[]::new);
                underway.put(
                        definition.name().text(),
                        CompletableFuture.allOf(before).thenApplyAsync(done -> alone(definition), workers));
            }
            return underway.values().stream().map(CompletableFuture::join).toList();
        } catch (CompletionException failed) {
            throw failed.getCause() instanceof RuntimeException cause ? cause : failed;
        } finally {
            workers.shutdown();
        }
    }

    private TableEntry alone(Definition definition) {
        try (Warehouse own = context.warehouse().another()) {
            OthersTables.standIn(context.project(), own);
            return loaded(new TableLoading(context.over(own)), definition);
        }
    }

    private TableEntry loaded(TableLoading loading, Definition definition) {
        TableEntry entry = loading.load(definition, notLoaded);
        if (!entry.isLoaded()) {
            notLoaded.add(definition.name().text());
        }
        context.listener().ended(entry);
        return entry;
    }

    /** A listener that hears one thing at a time. */
    private record OneAtATime(LoadListener listener) implements LoadListener {

        @Override
        public synchronized void step(String table, Caption step) {
            listener.step(table, step);
        }

        @Override
        public synchronized void notes(String table, List<String> notes) {
            listener.notes(table, notes);
        }

        @Override
        public synchronized void ended(TableEntry entry) {
            listener.ended(entry);
        }

        @Override
        public synchronized void cause(Throwable cause) {
            listener.cause(cause);
        }
    }
}
