package org.rainsieve.web.files;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.FileTime;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.file.Sha256;
import org.rainsieve.web.setup.NotPossibleException;

/** Originals are safe whatever lies in a folder. */
class OwnFilesTest {
    @TempDir
    Path folder;

    private Path shoot;
    private Path original;
    private Path elsewhere;

    @BeforeEach
    void set() throws IOException {
        shoot = Files.createDirectories(folder.resolve("photos/shoot"));
        original = Files.writeString(shoot.resolve("A.dng"), "original");
        elsewhere = Files.createDirectories(folder.resolve("elsewhere"));
        // Named like ours, so that nothing but the link itself tells that it is not.
        Files.writeString(elsewhere.resolve("item-1-1.part"), "somebody's");
        Files.writeString(elsewhere.resolve("A.dng"), "somebody's");
    }

    @Test
    void nothingBehindALinkCalledAsOurFolderIsDeletedOrWritten() throws IOException {
        for (Path target : new Path[] {Path.of("."), elsewhere}) {
            Path link = Files.createSymbolicLink(shoot.resolve(Temporaries.FOLDER), target);
            Temporaries.sweep(shoot, (item, attempt) -> true);
            Temporaries.removeOf(shoot, 1);
            assertThatThrownBy(() -> Temporaries.prepare(shoot, 1, 1))
                    .isInstanceOf(NotPossibleException.class)
                    .hasMessageContaining(Temporaries.FOLDER);
            assertThat(original).hasContent("original");
            assertThat(elsewhere).isDirectoryContaining("glob:**/item-1-1.part").isDirectoryContaining("glob:**/A.dng");
            assertThat(link).isSymbolicLink();
            Files.delete(link);
        }
    }

    @Test
    void onlyFilesThatOurRowsKnowAreDeleted() throws IOException {
        Path temporaries = Temporaries.make(shoot);
        for (String name :
                new String[] {"A.dng", "item-1-1.part", "item-2-1.part", "item-1-1.part.dng", "item-1-x.part"}) {
            Files.writeString(temporaries.resolve(name), name);
        }
        Temporaries.sweep(shoot, (item, attempt) -> item == 1);
        try (var left = Files.list(temporaries)) {
            assertThat(left.map(file -> file.getFileName().toString()))
                    .containsExactlyInAnyOrder("A.dng", "item-2-1.part", "item-1-1.part.dng", "item-1-x.part");
        }
    }

    @Test
    void returnsAndDiscardedOnesGoIntoFoldersOnly() throws IOException {
        Files.createSymbolicLink(shoot.resolve(Discarded.FOLDER), elsewhere);
        String hash = Sha256.of(original);
        assertThatThrownBy(() -> Discarded.put(original, 1, 8, hash)).isInstanceOf(NotPossibleException.class);
        assertThat(Discarded.bringBack(original, 1)).isFalse();
        Files.createSymbolicLink(shoot.resolve("returns"), elsewhere);
        assertThatThrownBy(() -> OwnFiles.folder(shoot, "returns")).isInstanceOf(NotPossibleException.class);
        assertThat(original).hasContent("original");
    }

    /** An editor may change a file without changing its size or its time. */
    @Test
    void whatWasChangedIsNotDiscarded() throws IOException {
        Path returned = Files.writeString(shoot.resolve("A-denoise.dng"), "as it was made");
        String hash = Sha256.of(returned);
        FileTime time = Files.getLastModifiedTime(returned);
        Files.writeString(returned, "as it is today");
        Files.setLastModifiedTime(returned, time);
        assertThat(Discarded.put(returned, 1, 14, hash)).isFalse();
        assertThat(returned).hasContent("as it is today");
        Files.writeString(returned, "as it was made");
        assertThat(Discarded.put(returned, 1, 14, hash)).isTrue();
        assertThat(returned).doesNotExist();
        Files.writeString(returned, "another");
        assertThat(Discarded.bringBack(returned, 1)).isFalse();
        Files.delete(returned);
        assertThat(Discarded.bringBack(returned, 1)).isTrue();
        assertThat(returned).hasContent("as it was made");
        assertThat(shoot.resolve(Discarded.FOLDER)).doesNotExist();
    }

    /** With hard links and, as on cards and some shares, without. */
    @Test
    void namesAreGivenOnceOnly() throws IOException {
        Path taken = Files.writeString(shoot.resolve("taken.dng"), "there before");
        Path part = Files.writeString(shoot.resolve("x.part"), "new");
        assertThatThrownBy(() -> OwnFiles.publish(part, taken)).isInstanceOf(FileAlreadyExistsException.class);
        assertThatThrownBy(() -> OwnFiles.publishWithoutLinks(part, taken))
                .isInstanceOf(FileAlreadyExistsException.class);
        assertThatThrownBy(() -> OwnFiles.publishWithoutLinks(shoot.resolve("missing"), shoot.resolve("free.dng")))
                .isInstanceOf(IOException.class);
        assertThat(taken).hasContent("there before");
        assertThat(shoot.resolve("free.dng")).doesNotExist();
        OwnFiles.publishWithoutLinks(part, shoot.resolve("free.dng"));
        assertThat(shoot.resolve("free.dng")).hasContent("new");
    }

    /** The return lies where the other program looks; what it handed over is kept, also a second time. */
    @Test
    void aReturnTakesThePlaceOfWhatWasHandedOver() throws IOException {
        Path file = Files.writeString(folder.resolve("N_1.tif"), "first");
        Path made = Files.writeString(folder.resolve("N_1-denoise.TIFF"), "second");
        Path kept = HandedOver.takePlace(file, made);
        assertThat(file).hasContent("second");
        assertThat(kept).hasContent("first").hasFileName("N_1-before.tif");
        Files.writeString(made, "third");
        assertThat(HandedOver.takePlace(file, made)).hasContent("second").hasFileName("N_1-before-2.tif");
        assertThat(file).hasContent("third");
        assertThat(made).hasContent("third");
        Path other = Files.writeString(folder.resolve("N_1-denoise.dng"), "dng");
        assertThatThrownBy(() -> HandedOver.takePlace(file, other))
                .isInstanceOf(NotPossibleException.class)
                .hasMessageContaining("cannot take the place of a .tif");
        assertThat(file).hasContent("third");
        try (var all = Files.list(folder)) {
            assertThat(all.filter(path -> path.toString().endsWith(".part"))).isEmpty();
        }
    }
}
