package org.rainsieve.web.run;

/** One frame in one run. Unknown values are null. */
public record ItemRow(
        long id,
        long runId,
        long frameId,
        String name,
        String state,
        ReturnForm form,
        double progress,
        Integer version,
        String finalPath,
        boolean pickedUp,
        String hash,
        Long sizeBytes,
        Double noiseLeft,
        Double grain,
        String reason,
        Integer iso,
        String camera,
        String settings,
        String path,
        Integer width,
        Integer height,
        Integer orientation,
        Double seconds) {

    public String returnName() {
        return finalPath == null ? "" : finalPath.substring(finalPath.lastIndexOf('/') + 1);
    }
}
