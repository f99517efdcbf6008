package org.rainsieve.web.catalogue;

import java.util.List;
import java.util.Set;
import org.rainsieve.colour.DeliverySpace;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.web.files.Destinations;
import org.rainsieve.web.run.ReturnForm;
import org.rainsieve.web.run.Returns;
import org.rainsieve.web.run.RunRequest;
import org.rainsieve.web.run.RunStarter;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.ShootRow;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** The page Catalogue. */
@Controller
@ConditionalOnWebApplication
class CatalogueController {
    private static final int AT_ONCE = 60;

    private final CatalogueService catalogue;
    private final CatalogueClient client;
    private final ShootService shoots;
    private final Returns returns;
    private final RunStarter starter;
    private final Destinations destinations;

    CatalogueController(
            CatalogueService catalogue,
            CatalogueClient client,
            ShootService shoots,
            Returns returns,
            RunStarter starter,
            Destinations destinations) {
        this.destinations = destinations;
        this.catalogue = catalogue;
        this.client = client;
        this.shoots = shoots;
        this.returns = returns;
        this.starter = starter;
    }

    @GetMapping("/catalogue")
    String page(@RequestParam(required = false) Long shoot, @RequestParam(defaultValue = "0") int from, Model model) {
        List<ShootRow> returned = shoots.shoots().stream()
                .filter(row -> row.returned() > 0 || shoot != null && row.id() == shoot)
                .toList();
        ShootRow chosen = returned.stream()
                .filter(row -> shoot == null || row.id() == shoot)
                .findFirst()
                .orElse(null);
        List<CatalogueService.Pair> pairs = chosen == null ? List.of() : catalogue.pairs(chosen.id());
        int first = Math.max(0, Math.min(from, pairs.size()));
        model.addAttribute("shoots", returned);
        model.addAttribute("chosen", chosen);
        model.addAttribute("count", pairs.size());
        model.addAttribute("pairs", pairs.subList(first, Math.min(pairs.size(), first + AT_ONCE)));
        model.addAttribute("previous", first > 0 ? Math.max(0, first - AT_ONCE) : null);
        model.addAttribute("next", first + AT_ONCE < pairs.size() ? first + AT_ONCE : null);
        model.addAttribute("setUp", client.setUp());
        model.addAttribute("destinations", destinations.available());
        return "catalogue";
    }

    /** Copies of many returns, as a run of their own. */
    @PostMapping("/catalogue/deliver")
    String deliver(
            @RequestParam long shoot,
            @RequestParam(defaultValue = "all") String which,
            @RequestParam(required = false) Set<Long> items,
            @RequestParam(defaultValue = Destinations.SUB_FOLDER) String destination,
            @RequestParam DeliverySettings.Form form,
            @RequestParam(defaultValue = "SRGB") DeliverySpace space,
            @RequestParam(defaultValue = "300") double ppi,
            @RequestParam(defaultValue = "false") boolean deflate,
            @RequestParam(defaultValue = "90") int quality,
            @RequestParam(defaultValue = "0") int mostKilobytes,
            @RequestParam(defaultValue = "0") int longEdge) {
        boolean ticked = which.equals("ticked");
        if (ticked && (items == null || items.isEmpty())) {
            throw new NotPossibleException(
                    "No return is ticked. Tick some on the page, or deliver all. No run was started.");
        }
        DeliverySettings delivery;
        try {
            delivery = new DeliverySettings(form, space, ppi, deflate, quality, mostKilobytes, longEdge);
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + ". No run was started.");
        }
        RunRequest request = RunRequest.copies(
                shoot, destination, form == DeliverySettings.Form.JPEG ? ReturnForm.JPEG : ReturnForm.TIFF, delivery);
        return "redirect:/runs/" + starter.deliver(request, ticked ? items : Set.of());
    }

    private String back(long itemId) {
        long frame = returns.item(itemId).frameId();
        return "redirect:/catalogue?shoot=" + shoots.frame(frame).shootId() + "#frame-" + frame;
    }

    @PostMapping("/catalogue/returns/{item}/keep")
    String keep(@PathVariable long item) {
        catalogue.keep(item);
        return back(item);
    }

    @PostMapping("/catalogue/returns/{item}/discard")
    String discard(@PathVariable long item) {
        catalogue.discard(item);
        return back(item);
    }

    @PostMapping("/catalogue/returns/{item}/bring-back")
    String bringBack(@PathVariable long item) {
        catalogue.bringBack(item);
        return back(item);
    }
}
