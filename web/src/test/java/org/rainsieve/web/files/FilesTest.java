package org.rainsieve.web.files;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.setup.SieveProperties;

class FilesTest {
    @TempDir
    Path folder;

    private FolderService service;
    private Path root;

    @BeforeEach
    void set() throws IOException {
        root = Files.createDirectories(folder.resolve("photos"));
        Path shoot = Files.createDirectories(root.resolve("Ossel Mere: night/one"));
        Files.createDirectories(root.resolve(".hidden"));
        Files.createDirectories(shoot.resolve("deeper"));
        Files.createDirectories(shoot.resolve("odd.DNG"));
        Files.createDirectories(shoot.resolve(Temporaries.FOLDER));
        for (String name : new String[] {"b.dng", "a.DNG", "a.xmp", ".a.dng", "note.txt"}) {
            Files.writeString(shoot.resolve(name), "x");
        }
        Files.createSymbolicLink(shoot.resolve("linked.dng"), folder.resolve("elsewhere.dng"));
        service = new FolderService(new SieveProperties(
                List.of(root),
                folder,
                List.of(),
                folder.resolve("uploads"),
                List.of(),
                1000,
                6,
                16,
                0,
                64,
                null,
                null,
                null,
                null));
    }

    @Test
    void foldersAreListedWithoutHiddenOnes() {
        assertThat(service.roots()).extracting(FolderService.Folder::root).containsExactly(0);
        assertThat(service.below(0, "")).extracting(FolderService.Folder::name).containsExactly("Ossel Mere: night");
        assertThat(service.below(0, "Ossel Mere: night"))
                .extracting(FolderService.Folder::path)
                .containsExactly("Ossel Mere: night/one");
    }

    /**
     * Every ordinary file is a candidate, since kinds are told by content; sidecars and hidden files are not. Links and
     * folders named like raw files are listed too, to be refused with their reason.
     */
    @Test
    void candidatesAreFilesAndFoldersNamedLikeFiles() {
        assertThat(service.candidates(0, "Ossel Mere: night/one", false))
                .extracting(found -> found.path().getFileName().toString())
                .containsExactlyInAnyOrder("a.DNG", "b.dng", "note.txt", "odd.DNG", "linked.dng");
    }

    /** With the folders below: their files too, but nothing hidden and nothing behind links. */
    @Test
    void candidatesOfFoldersBelow() throws IOException {
        Path deeper = root.resolve("Ossel Mere: night/one/deeper");
        Files.writeString(deeper.resolve("c.nef"), "x");
        Files.writeString(Files.createDirectories(deeper.resolve("still")).resolve("d.jpg"), "x");
        Files.writeString(Files.createDirectories(deeper.resolve(".hidden")).resolve("e.dng"), "x");
        Files.createSymbolicLink(deeper.resolve("loop"), root);
        assertThat(service.candidates(0, "Ossel Mere: night", true))
                .extracting(found -> found.path().getFileName().toString())
                .containsExactlyInAnyOrder("a.DNG", "b.dng", "note.txt", "odd.DNG", "linked.dng", "c.nef", "d.jpg");
    }

    @Test
    void filesHandedOverMustLieBelowARoot() throws IOException {
        Path inside = root.resolve("Ossel Mere: night/one/b.dng");
        assertThat(service.allowedFile(inside)).isEqualTo(inside.toRealPath());
        Path outside = Files.writeString(folder.resolve("elsewhere.dng"), "x");
        Path link = root.resolve("Ossel Mere: night/one/linked.dng");
        for (Path path : List.of(outside, link, root, root.resolve("missing.dng"), root.resolve("../elsewhere.dng"))) {
            assertThatThrownBy(() -> service.allowedFile(path)).isInstanceOf(NotPossibleException.class);
        }
    }

    @Test
    void nothingOutsideTheRootsIsReached() throws IOException {
        Files.createDirectories(folder.resolve("other"));
        Files.createSymbolicLink(root.resolve("way-out"), folder.resolve("other"));
        for (String path : new String[] {
            "..",
            "a/../..",
            "/etc",
            "way-out",
            "C:/x",
            "a\\b",
            "x\0y",
            "./.",
            "missing",
            "Ossel Mere: night/one/b.dng",
            "Ossel Mere: night/one/" + Temporaries.FOLDER
        }) {
            assertThatThrownBy(() -> service.resolve(0, path)).as(path).isInstanceOf(NotPossibleException.class);
        }
        assertThatThrownBy(() -> service.resolve(1, "")).isInstanceOf(NotPossibleException.class);
        assertThatThrownBy(() -> service.resolve(0, null)).isInstanceOf(NotPossibleException.class);
    }

    @Test
    void returnsAreNamedAfterTheirOriginalAndTheSteps() throws IOException {
        assertThat(usual("TN_0147.dng", 1)).isEqualTo("TN_0147-denoise.dng");
        assertThat(usual("TN_0147.dng", 3)).isEqualTo("TN_0147-denoise-3.dng");
        assertThat(usual("no ending", 1)).isEqualTo("no ending-denoise.dng");
        assertThat(usual("v1.2 final.DNG", 1)).isEqualTo("v1.2 final-denoise.dng");
        // 255 bytes are the limit, and an umlaut has two.
        assertThat(usual("x".repeat(243) + ".dng", 1)).hasSize(255);
        assertThatThrownBy(() -> usual("x".repeat(244) + ".dng", 1)).hasMessageContaining("shorter name");
        assertThatThrownBy(() -> usual("ö".repeat(122) + ".dng", 1)).isInstanceOf(IOException.class);
    }

    private static String usual(String original, int version) throws IOException {
        return ReturnNames.of(null, new ReturnNames.Frame(original, "Ondrel 24", 800, "2026-10-03T21:14:05.25+01:00"))
                .name(version, ".dng");
    }

    /** Fields are filled in and cleaned; what would make a return look like an original, or leave its folder, is refused. */
    @Test
    void namesFollowAPattern() throws IOException {
        ReturnNames.Frame frame =
                new ReturnNames.Frame("TN_0147.dng", "Ondrel 24: a/b", 12800, "2026-10-03T21:14:05.25+01:00");
        assertThat(ReturnNames.of("{date} {time} {camera} {iso} {name}-{step}{version}", frame)
                        .name(2, ".dng"))
                .isEqualTo("2026-10-03 211405 Ondrel 24- a-b 12800 TN_0147-denoise-2.dng");
        assertThat(ReturnNames.of("{step} {name}", frame).name(3, ".tif")).isEqualTo("denoise TN_0147-3.tif");
        assertThat(ReturnNames.of("{name}-{step}{version}", new ReturnNames.Frame("a.dng", "", null, null))
                        .name(1, ".dng"))
                .isEqualTo("a-denoise.dng");
        // Every step that worked shows, and a word for one that did not takes its mark along.
        ResolvedSettings settings = ResolvedSettings.of(
                        12800,
                        NoiseModel.uniform(1e-3, 1e-5),
                        new DenoiseSettings(true, "Quick", 5, 0),
                        CfaPattern.RGGB)
                .with(null, null, null, EnlargeSettings.factor(2));
        EnlargeSettings.Size size = new EnlargeSettings.Size(800, 600);
        assertThat(ReturnNames.of(null, frame).of(settings, size).name(1, ".dng"))
                .isEqualTo("TN_0147-denoise-enlarge.dng");
        assertThat(ReturnNames.of("{name} {step}-{sharpen}-{enlarge}_{size}", frame)
                        .of(settings, size)
                        .name(2, ".jpg"))
                .isEqualTo("TN_0147 denoise-enlarge-enlarge_800x600-2.jpg");
        ResolvedSettings off = ResolvedSettings.of(
                100, NoiseModel.uniform(1e-3, 1e-5), new DenoiseSettings(false, "Quick", 5, 0), CfaPattern.RGGB);
        assertThat(ReturnNames.of(null, frame).of(off, size).name(1, ".dng")).isEqualTo("TN_0147-linear.dng");
        for (String pattern : new String[] {
            "{name}",
            "{step}",
            "../{name}-{step}",
            "{name}/{step}",
            "{name}-{step}{owner}",
            "{name}-{step}{",
            "{name}-{step}\0",
            ".{name}-{step}",
            "{name}-{step}" + "x".repeat(200),
            "C:{name}-{step}"
        }) {
            assertThatThrownBy(() -> ReturnNames.of(pattern, frame)).as(pattern).hasMessageEndingWith(".");
        }
    }
}
