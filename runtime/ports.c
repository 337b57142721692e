#include "ports.h"

#include "rigpulse/image.h"
#include "sim/sim.h"

const rp_catalog *rp_ports_catalog(void)
{
    return rp_sim_catalog();
}

bool rp_ports_try(rp_rig *rig, GError **error)
{
    if (!rig->hookup) {
        return true;
    }
    rp_sim *sim = rp_sim_new(rig, 1, false, error);
    if (!sim) {
        return false;
    }
    for (uint32_t i = 0; i < rp_image_count(rig->image, RP_SECTION_SENSORS); i++) {
        if (rp_sim_noise(sim, i) > 0.0) {
            rp_rig_heed_noise(rig, i);
        }
    }
    rp_sim_free(sim);
    return true;
}
