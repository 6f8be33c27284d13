// What a graphics card's compiler makes of shaders, in a process of its own: drivers may crash or hang, and which family they compile for
// is said by the environment before the first call. Nothing is drawn; only layouts, modules and pipelines are made, so no card is needed.
//
// Standard input: for each pair of stages two 32-bit numbers, how many words the vertex and the fragment stage have, and these words of
// SPIR-V. Standard output: a line of JSON with the device, then one for each pair, flushed at once: {"stages": [{"name", "statistics":
// {...}}]} with names and figures as the driver gives them, or {"error": "..."}. Exit code 2: no device.
//
// Set 0: bindings 0 to 15 uniform buffers, 16 to 63 maps with their samplers. Attributes 0 to 13 as kAttributes says. Eight targets.
#include <vulkan/vulkan.h>

#include <cstdio>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

namespace {

using Json = nlohmann::json;

constexpr uint32_t kBuffers = 16, kBindings = 64, kTargets = 8;
constexpr VkFormat kFloat2 = VK_FORMAT_R32G32_SFLOAT, kFloat3 = VK_FORMAT_R32G32B32_SFLOAT, kFloat4 = VK_FORMAT_R32G32B32A32_SFLOAT,
                   kBytes4 = VK_FORMAT_R8G8B8A8_UNORM;
/// Position, normal, tangent, two UVs, color; position and normal at rest; four vectors that are carried; two sets of paint.
constexpr VkFormat kAttributes[] = {kFloat3, kFloat3, kFloat4, kFloat2, kFloat2, kBytes4, kFloat3,
                                    kFloat3, kFloat4, kFloat4, kFloat4, kFloat4, kBytes4, kBytes4};

void say(const Json& line) {
    std::printf("%s\n", line.dump().c_str());
    std::fflush(stdout);
}

std::optional<std::vector<uint32_t>> wordsFromInput(size_t count) {
    constexpr size_t kMost = size_t(1) << 24;
    if (count > kMost) return {};
    std::vector<uint32_t> out(count);
    if (std::fread(out.data(), sizeof(uint32_t), count, stdin) != count) return {};
    return out;
}

class Compiler {
  public:
    Compiler() = default;
    Compiler(const Compiler&) = delete;
    /// A driver that is taken down keeps what it compiled for itself, and starts sooner the next time.
    ~Compiler() {
        if (m_layout) vkDestroyPipelineLayout(m_device, m_layout, nullptr);
        if (m_device) vkDestroyDevice(m_device, nullptr);
        if (m_instance) vkDestroyInstance(m_instance, nullptr);
    }
    /// Empty when it is ready, else what is missing.
    std::string open() {
        VkApplicationInfo application{};
        application.sType = VK_STRUCTURE_TYPE_APPLICATION_INFO;
        application.apiVersion = VK_API_VERSION_1_3;
        VkInstanceCreateInfo instance{};
        instance.sType = VK_STRUCTURE_TYPE_INSTANCE_CREATE_INFO;
        instance.pApplicationInfo = &application;
        if (const VkResult r = vkCreateInstance(&instance, nullptr, &m_instance)) return failed("no instance", r);
        uint32_t count = 1;
        if (const VkResult r = vkEnumeratePhysicalDevices(m_instance, &count, &m_card); r < 0 || !count) return failed("no device", r);
        return openDevice();
    }

    Json device() const {
        VkPhysicalDeviceProperties properties{};
        vkGetPhysicalDeviceProperties(m_card, &properties);
        return {{"device", properties.deviceName}, {"driver", properties.driverVersion}};
    }

    Json measure(const std::vector<uint32_t>& vertex, const std::vector<uint32_t>& fragment) {
        const std::vector<uint32_t>* code[] = {&vertex, &fragment};
        VkShaderModule modules[2]{};
        VkPipelineShaderStageCreateInfo stages[2]{};
        std::string wrong;
        for (int k = 0; k < 2 && wrong.empty(); ++k) {
            VkShaderModuleCreateInfo info{};
            info.sType = VK_STRUCTURE_TYPE_SHADER_MODULE_CREATE_INFO;
            info.codeSize = code[k]->size() * sizeof(uint32_t);
            info.pCode = code[k]->data();
            if (const VkResult r = vkCreateShaderModule(m_device, &info, nullptr, &modules[k])) wrong = failed("a stage is refused", r);
            stages[k].sType = VK_STRUCTURE_TYPE_PIPELINE_SHADER_STAGE_CREATE_INFO;
            stages[k].stage = k ? VK_SHADER_STAGE_FRAGMENT_BIT : VK_SHADER_STAGE_VERTEX_BIT;
            stages[k].module = modules[k];
            stages[k].pName = "main";
        }
        VkPipeline pipeline = VK_NULL_HANDLE;
        if (wrong.empty())
            if (const VkResult r = makePipeline(stages, &pipeline)) wrong = failed("the pipeline is refused", r);
        Json out = wrong.empty() ? statisticsOf(pipeline) : Json{{"error", wrong}};
        vkDestroyPipeline(m_device, pipeline, nullptr);
        for (VkShaderModule m : modules) vkDestroyShaderModule(m_device, m, nullptr);
        return out;
    }

  private:
    static std::string failed(const char* what, VkResult r) { return std::string(what) + " (" + std::to_string(int(r)) + ")"; }

    std::string openDevice() {
        const float priority = 1;
        VkDeviceQueueCreateInfo queue{};
        queue.sType = VK_STRUCTURE_TYPE_DEVICE_QUEUE_CREATE_INFO;
        queue.queueCount = 1;
        queue.pQueuePriorities = &priority;
        VkPhysicalDevicePipelineExecutablePropertiesFeaturesKHR statistics{};
        statistics.sType = VK_STRUCTURE_TYPE_PHYSICAL_DEVICE_PIPELINE_EXECUTABLE_PROPERTIES_FEATURES_KHR;
        statistics.pipelineExecutableInfo = VK_TRUE;
        VkPhysicalDeviceVulkan13Features features{};
        features.sType = VK_STRUCTURE_TYPE_PHYSICAL_DEVICE_VULKAN_1_3_FEATURES;
        features.dynamicRendering = VK_TRUE;
        features.shaderDemoteToHelperInvocation = VK_TRUE;
        features.pNext = &statistics;
        const char* extension = VK_KHR_PIPELINE_EXECUTABLE_PROPERTIES_EXTENSION_NAME;
        VkDeviceCreateInfo info{};
        info.sType = VK_STRUCTURE_TYPE_DEVICE_CREATE_INFO;
        info.pNext = &features;
        info.queueCreateInfoCount = 1;
        info.pQueueCreateInfos = &queue;
        info.enabledExtensionCount = 1;
        info.ppEnabledExtensionNames = &extension;
        if (const VkResult r = vkCreateDevice(m_card, &info, nullptr, &m_device)) return failed("the device cannot be opened", r);
        std::vector<VkDescriptorSetLayoutBinding> bindings;
        for (uint32_t k = 0; k < kBindings; ++k)
            bindings.push_back({k, k < kBuffers ? VK_DESCRIPTOR_TYPE_UNIFORM_BUFFER : VK_DESCRIPTOR_TYPE_COMBINED_IMAGE_SAMPLER, 1,
                                VK_SHADER_STAGE_VERTEX_BIT | VK_SHADER_STAGE_FRAGMENT_BIT, nullptr});
        VkDescriptorSetLayoutCreateInfo set{};
        set.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_SET_LAYOUT_CREATE_INFO;
        set.bindingCount = kBindings;
        set.pBindings = bindings.data();
        VkDescriptorSetLayout made;
        if (const VkResult r = vkCreateDescriptorSetLayout(m_device, &set, nullptr, &made)) return failed("no layout", r);
        VkPipelineLayoutCreateInfo layout{};
        layout.sType = VK_STRUCTURE_TYPE_PIPELINE_LAYOUT_CREATE_INFO;
        layout.setLayoutCount = 1;
        layout.pSetLayouts = &made;
        if (const VkResult r = vkCreatePipelineLayout(m_device, &layout, nullptr, &m_layout)) return failed("no layout", r);
        const auto find = [&](const char* name) { return vkGetDeviceProcAddr(m_device, name); };
        m_parts = reinterpret_cast<PFN_vkGetPipelineExecutablePropertiesKHR>(find("vkGetPipelineExecutablePropertiesKHR"));
        m_statistics = reinterpret_cast<PFN_vkGetPipelineExecutableStatisticsKHR>(find("vkGetPipelineExecutableStatisticsKHR"));
        return m_parts && m_statistics ? std::string() : "the driver tells no statistics";
    }

    VkResult makePipeline(const VkPipelineShaderStageCreateInfo* stages, VkPipeline* out) {
        const VkVertexInputBindingDescription buffer{0, 256, VK_VERTEX_INPUT_RATE_VERTEX};
        std::vector<VkVertexInputAttributeDescription> attributes;
        for (uint32_t k = 0; k < std::size(kAttributes); ++k) attributes.push_back({k, 0, kAttributes[k], 16 * k});
        VkPipelineVertexInputStateCreateInfo input{};
        input.sType = VK_STRUCTURE_TYPE_PIPELINE_VERTEX_INPUT_STATE_CREATE_INFO;
        input.vertexBindingDescriptionCount = 1;
        input.pVertexBindingDescriptions = &buffer;
        input.vertexAttributeDescriptionCount = uint32_t(attributes.size());
        input.pVertexAttributeDescriptions = attributes.data();
        VkPipelineInputAssemblyStateCreateInfo assembly{};
        assembly.sType = VK_STRUCTURE_TYPE_PIPELINE_INPUT_ASSEMBLY_STATE_CREATE_INFO;
        assembly.topology = VK_PRIMITIVE_TOPOLOGY_TRIANGLE_LIST;
        const VkViewport viewport{0, 0, 64, 64, 0, 1};
        const VkRect2D scissor{{0, 0}, {64, 64}};
        VkPipelineViewportStateCreateInfo view{};
        view.sType = VK_STRUCTURE_TYPE_PIPELINE_VIEWPORT_STATE_CREATE_INFO;
        view.viewportCount = view.scissorCount = 1;
        view.pViewports = &viewport;
        view.pScissors = &scissor;
        VkPipelineRasterizationStateCreateInfo raster{};
        raster.sType = VK_STRUCTURE_TYPE_PIPELINE_RASTERIZATION_STATE_CREATE_INFO;
        raster.lineWidth = 1;
        VkPipelineMultisampleStateCreateInfo samples{};
        samples.sType = VK_STRUCTURE_TYPE_PIPELINE_MULTISAMPLE_STATE_CREATE_INFO;
        samples.rasterizationSamples = VK_SAMPLE_COUNT_1_BIT;
        const std::vector<VkFormat> formats(kTargets, VK_FORMAT_R16G16B16A16_SFLOAT);
        VkPipelineColorBlendAttachmentState all{};
        all.colorWriteMask = 15;
        const std::vector<VkPipelineColorBlendAttachmentState> targets(kTargets, all);
        VkPipelineColorBlendStateCreateInfo blend{};
        blend.sType = VK_STRUCTURE_TYPE_PIPELINE_COLOR_BLEND_STATE_CREATE_INFO;
        blend.attachmentCount = kTargets;
        blend.pAttachments = targets.data();
        VkPipelineRenderingCreateInfo rendering{};
        rendering.sType = VK_STRUCTURE_TYPE_PIPELINE_RENDERING_CREATE_INFO;
        rendering.colorAttachmentCount = kTargets;
        rendering.pColorAttachmentFormats = formats.data();
        VkGraphicsPipelineCreateInfo info{};
        info.sType = VK_STRUCTURE_TYPE_GRAPHICS_PIPELINE_CREATE_INFO;
        info.pNext = &rendering;
        info.flags = VK_PIPELINE_CREATE_CAPTURE_STATISTICS_BIT_KHR;
        info.stageCount = 2;
        info.pStages = stages;
        info.pVertexInputState = &input;
        info.pInputAssemblyState = &assembly;
        info.pViewportState = &view;
        info.pRasterizationState = &raster;
        info.pMultisampleState = &samples;
        info.pColorBlendState = &blend;
        info.layout = m_layout;
        return vkCreateGraphicsPipelines(m_device, VK_NULL_HANDLE, 1, &info, nullptr, out);
    }

    Json statisticsOf(VkPipeline pipeline) {
        VkPipelineInfoKHR which{};
        which.sType = VK_STRUCTURE_TYPE_PIPELINE_INFO_KHR;
        which.pipeline = pipeline;
        uint32_t count = 0;
        if (const VkResult r = m_parts(m_device, &which, &count, nullptr)) return {{"error", failed("no statistics", r)}};
        VkPipelineExecutablePropertiesKHR part{};
        part.sType = VK_STRUCTURE_TYPE_PIPELINE_EXECUTABLE_PROPERTIES_KHR;
        std::vector<VkPipelineExecutablePropertiesKHR> parts(count, part);
        if (const VkResult r = m_parts(m_device, &which, &count, parts.data())) return {{"error", failed("no statistics", r)}};
        Json stages = Json::array();
        for (uint32_t k = 0; k < count; ++k) {
            VkPipelineExecutableInfoKHR of{};
            of.sType = VK_STRUCTURE_TYPE_PIPELINE_EXECUTABLE_INFO_KHR;
            of.pipeline = pipeline;
            of.executableIndex = k;
            uint32_t n = 0;
            if (const VkResult r = m_statistics(m_device, &of, &n, nullptr)) return {{"error", failed("no statistics", r)}};
            VkPipelineExecutableStatisticKHR statistic{};
            statistic.sType = VK_STRUCTURE_TYPE_PIPELINE_EXECUTABLE_STATISTIC_KHR;
            std::vector<VkPipelineExecutableStatisticKHR> values(n, statistic);
            if (const VkResult r = m_statistics(m_device, &of, &n, values.data())) return {{"error", failed("no statistics", r)}};
            Json figures = Json::object();
            for (const auto& v : values) {
                switch (v.format) {
                case VK_PIPELINE_EXECUTABLE_STATISTIC_FORMAT_BOOL32_KHR: figures[v.name] = v.value.b32 ? 1 : 0; break;
                case VK_PIPELINE_EXECUTABLE_STATISTIC_FORMAT_INT64_KHR: figures[v.name] = v.value.i64; break;
                case VK_PIPELINE_EXECUTABLE_STATISTIC_FORMAT_UINT64_KHR: figures[v.name] = v.value.u64; break;
                case VK_PIPELINE_EXECUTABLE_STATISTIC_FORMAT_FLOAT64_KHR: figures[v.name] = v.value.f64; break;
                default: break;
                }
            }
            stages.push_back({{"name", parts[k].name}, {"statistics", std::move(figures)}});
        }
        return {{"stages", std::move(stages)}};
    }

    VkInstance m_instance = VK_NULL_HANDLE;
    VkPhysicalDevice m_card = VK_NULL_HANDLE;
    VkDevice m_device = VK_NULL_HANDLE;
    VkPipelineLayout m_layout = VK_NULL_HANDLE;
    PFN_vkGetPipelineExecutablePropertiesKHR m_parts = nullptr;
    PFN_vkGetPipelineExecutableStatisticsKHR m_statistics = nullptr;
};

} // namespace

int main() {
    Compiler compiler;
    if (const std::string wrong = compiler.open(); !wrong.empty()) {
        say({{"error", wrong}});
        return 2;
    }
    say(compiler.device());
    while (const auto counts = wordsFromInput(2)) {
        const auto vertex = wordsFromInput((*counts)[0]), fragment = vertex ? wordsFromInput((*counts)[1]) : std::nullopt;
        if (!fragment) break;
        say(compiler.measure(*vertex, *fragment));
    }
    return 0;
}
