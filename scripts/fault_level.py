"""Three-phase fault levels down a chain of boards by IEC 60909, with pandapower.

Standard input: a JSON list of cases, each {"source_ohm": Z of one line of the supply, "legs_ohm": [R of one
line of each feeder]}, all resistive. Standard output: for each case the initial short-circuit currents
in kA at the origin and at each board below it, with the voltage factor c taken out, since the product
works at U0/Z.
"""

import json
import math
import sys

import pandapower as pp
import pandapower.shortcircuit as sc

U0_V = 230.0
C_MAX = 1.10  # IEC 60909-0 Table 1, low voltage, +10 %


def levels(case):
    vn_kv = U0_V * math.sqrt(3) / 1000
    net = pp.create_empty_network(f_hz=50)
    bus = pp.create_bus(net, vn_kv=vn_kv)
    pp.create_ext_grid(net, bus, s_sc_max_mva=C_MAX * vn_kv**2 / case["source_ohm"], rx_max=1e4, rx_min=1e4)
    buses = [bus]
    for ohm in case["legs_ohm"]:
        below = pp.create_bus(net, vn_kv=vn_kv)
        pp.create_line_from_parameters(
            net, buses[-1], below, length_km=1.0, r_ohm_per_km=ohm, x_ohm_per_km=1e-7, c_nf_per_km=0, max_i_ka=1,
        )
        buses.append(below)
    sc.calc_sc(net, fault="3ph", case="max", lv_tol_percent=10, ip=False, ith=False)
    return [float(net.res_bus_sc.ikss_ka.at[bus]) / C_MAX for bus in buses]


json.dump([levels(case) for case in json.load(sys.stdin)], sys.stdout)
