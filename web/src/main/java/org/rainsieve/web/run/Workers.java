package org.rainsieve.web.run;

import java.util.List;
import org.rainsieve.web.setup.SieveProperties;
import org.springframework.stereotype.Service;

/** The workers that are at work, here and elsewhere. */
@Service
public class Workers {
    private final RunRepository repository;
    private final SieveProperties properties;

    Workers(RunRepository repository, SieveProperties properties) {
        this.repository = repository;
        this.properties = properties;
    }

    public List<WorkerRow> workers() {
        return repository.workers(properties.leaseMs());
    }

    public long addWorker(String address, String secret) {
        return repository.addWorker(address, secret);
    }

    public void removeWorker(long id) {
        repository.removeWorker(id);
    }

    public void heartbeat(long workerId, HeldMemory memory) {
        repository.heartbeat(workerId, memory);
    }
}
