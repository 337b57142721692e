/* The ports that there are: the simulated one. */
#include "ports.h"

#include "rigpulse/image.h"
#include "sim/sim.h"

const rgp_catalog *rgp_ports_catalog(void)
{
    return rgp_sim_catalog();
}

bool rgp_ports_try(rgp_rig *rig, char **says, GError **error)
{
    *says = NULL;
    if (!rig->hookup) {
        return true;
    }
    rgp_sim *sim = rgp_sim_new(rig, 1, false, error);
    if (!sim) {
        return false;
    }
    for (uint32_t i = 0; i < rgp_image_count(rig->image, RGP_SECTION_SENSORS); i++) {
        if (rgp_sim_noise(sim, i) > 0.0) {
            rgp_rig_warn_of_noise(rig, i);
        }
    }
    *says = rgp_sim_says(sim);
    rgp_sim_free(sim);
    return true;
}
